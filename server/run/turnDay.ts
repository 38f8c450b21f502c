import { formatDay, toDay } from '../../core/dates/day.ts';
import { BY_HAND_GRACE_DAYS } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { testConnection } from '../gateways/health.ts';
import { duesToTell, tellOfDue } from '../invoices/duesComing.ts';
import { askGateway } from '../payments/askGateway.ts';
import { Attempt } from '../payments/Attempt.ts';
import { collectInvoice } from '../payments/collect.ts';
import { takeMoves } from '../plans/rateVersions.ts';
import { movesToTell, tellOfMove } from '../plans/tellOfMoves.ts';
import { climbCase } from '../recovery/climb.ts';
import { sendDigests } from '../staff/notices.ts';
import { advanceSubscription } from '../subscriptions/advance.ts';
import { endSubscription } from '../subscriptions/end.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { renewalsToTell, tellOfRenewal } from '../subscriptions/renewals.ts';
import { settleTrial, tellOfTrial, trialsToTell, trialsWithoutCard } from '../subscriptions/trials.ts';
import { isolated, sideBySide, type Pass } from './isolated.ts';

/** Charges asked of the gateway side by side. */
const LANES = 4;

/**
 * Turns one business day: everything due up to it that is not done, in the order of the engine. Each step asks
 * the database what is still to do and does it in small transactions, so that a run that was killed is simply
 * run again, and running a day twice changes nothing. Charges whose gateway account cannot be asked wait: the day is
 * done without them, and they are asked for again in every later pass.
 * @param signal aborted when the right to turn days is lost
 */
export async function turnDay(
  almanac: Almanac,
  businessDate: string,
  signal: AbortSignal = new AbortController().signal,
): Promise<void> {
  const { db } = almanac;
  const pass = passOver(almanac, businessDate, signal);
  await db.rows('insert into days (business_date) values ($businessDate) on conflict do nothing', {
    businessDate,
  });
  await askForPending(pass);
  await takeMoves(almanac, businessDate);
  await settleTrials(pass);
  await advanceSubscriptions(pass);
  await tellOfTrialsEnding(pass);
  await tellOfRenewals(pass);
  await tellOfDues(pass);
  await tellOfMoves(pass);
  await chargeInvoices(pass);
  await climbCases(pass);
  await endSubscriptions(pass);
  signal.throwIfAborted();
  await sendDigests(almanac, businessDate);
  await db.rows('update days set finished_at = now() where business_date = $businessDate', { businessDate });
}

/** Asks again about everything that waits or is not known, between the turns of two pages. */
export async function askForWaiting(
  almanac: Almanac,
  businessDate: string,
  signal: AbortSignal,
): Promise<void> {
  await askForPending(passOver(almanac, businessDate, signal));
}

function passOver(almanac: Almanac, businessDate: string, signal: AbortSignal): Pass {
  return { almanac: { ...almanac, gateways: almanac.gateways.forOnePass() }, businessDate, signal };
}

/** Asks about every attempt whose outcome is not known, and first about accounts that were in trouble. */
async function askForPending(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const account of await almanac.gateways.connected()) {
    if (account.well) continue;
    const trouble = await testConnection(almanac, account);
    if (trouble) almanac.gateways.noteTrouble(account, trouble);
  }
  const pending = await almanac.db.rows<{ id: string; subscription_id: string }>(
    `select a.id, i.subscription_id from attempts a join invoices i on i.id = a.invoice_id
     where a.state = 'under way' order by a.id`,
  );
  for (const { id, subscription_id } of pending)
    await isolated(pass, subscription_id, async () => {
      const attempt = await Attempt.findByPk(id, { rejectOnEmpty: true });
      if (attempt.state === 'under way') await askGateway(almanac, attempt, businessDate);
    });
}

/** One after the other in the order of enrolment, so that invoice numbers come out the same on every run. */
async function advanceSubscriptions(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  const due = await almanac.db.rows<{ id: string }>(
    `select id from subscriptions
     where wake_on <= $businessDate and state <> 'lapsed'
       and (held_on is null or held_on < $businessDate)
     order by id`,
    { businessDate },
  );
  const law = await loadLaw(almanac);
  for (const { id } of due)
    await isolated(pass, id, () => advanceSubscription(almanac, law, id, businessDate));
}

/** What becomes of trials that end without a card: it is settled before the first payment after them. */
async function settleTrials(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const { id } of await trialsWithoutCard(almanac, businessDate))
    await isolated(pass, id, () => settleTrial(almanac, id, businessDate));
}

async function tellOfTrialsEnding(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const { id } of await trialsToTell(almanac, businessDate))
    await isolated(pass, id, () => tellOfTrial(almanac, id, businessDate));
}

async function tellOfRenewals(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const { id, days } of await renewalsToTell(almanac, businessDate))
    await isolated(pass, id, () => tellOfRenewal(almanac, id, days, businessDate));
}

/** Writes of later parts of invoices that come nearer. */
async function tellOfDues(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const due of await duesToTell(almanac, businessDate))
    await isolated(pass, due.subscription_id, () => tellOfDue(almanac, due, businessDate));
}

/** Writes of changes of rates that come nearer. */
async function tellOfMoves(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  for (const move of await movesToTell(almanac, businessDate))
    await isolated(pass, move.subscription_id, () => tellOfMove(almanac, move, businessDate));
}

/**
 * Charges what is due and was never tried; what was tried and declined is its case's affair. What is paid by hand is
 * not charged: some days after it was due, a case is opened for it.
 */
async function chargeInvoices(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  const due = await almanac.db.rows<{ id: string; subscription_id: string; place: number }>(
    `select i.id, i.subscription_id, min(d.place) as place
     from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
     where d.due_on <= $businessDate and s.state <> 'lapsed'
       and (s.collects = 'automatic' or d.due_on < $patientUntil)
       and (i.case_id is null or (d.of_several and exists (
              select 1 from recovery_cases k where k.id = i.case_id and k.state = 'recovered')))
       and not exists (select 1 from attempts a
                       where a.invoice_id = i.id and (not d.of_several or a.attempted_on >= d.due_on)
                         and a.state <> 'withdrawn'
                         and (a.state <> 'refused' or exists (
                                select 1 from needs n where n.once_key = 'refused:' || a.id and n.settled_on is null)))
     group by i.id order by min(d.due_on), i.id`,
    { businessDate, patientUntil: formatDay(toDay(businessDate) - BY_HAND_GRACE_DAYS) },
  );
  await sideBySide(due, LANES, (invoice) =>
    isolated(pass, invoice.subscription_id, () =>
      collectInvoice(almanac, {
        invoiceId: invoice.id,
        reason: 'renewal',
        channel: 'by itself',
        businessDate,
        occasion: invoice.place === 1 ? 'renewal' : `due ${invoice.place}`,
      }),
    ),
  );
}

async function climbCases(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  const due = await almanac.db.rows<{ id: string; subscription_id: string }>(
    `select id, subscription_id from recovery_cases
     where state = 'open' and (next_rung_on <= $businessDate or retry_on <= $businessDate)
     order by id`,
    { businessDate },
  );
  for (const { id, subscription_id } of due)
    await isolated(pass, subscription_id, () => climbCase(almanac, id, businessDate));
}

async function endSubscriptions(pass: Pass): Promise<void> {
  const { almanac, businessDate } = pass;
  const ending = await almanac.db.rows<{ id: string }>(
    `select id from subscriptions
     where ends_on <= $businessDate and state not in ('lapsed', 'ended') order by id`,
    { businessDate },
  );
  for (const { id } of ending) await isolated(pass, id, () => endSubscription(almanac, id, businessDate));
}
