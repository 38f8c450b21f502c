import pMap from 'p-map';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { BY_HAND_GRACE_DAYS } from '../../core/recovery/ladder.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { GatewayAway } from '../gateways/port.ts';
import { duesToTell, tellOfDue } from '../invoices/duesComing.ts';
import { writeAbout } from '../notices/occasions.ts';
import { collectInvoice, resolvePending } from '../payments/collect.ts';
import { takeMoves } from '../plans/rateVersions.ts';
import { movesToTell, tellOfMove } from '../plans/tellOfMoves.ts';
import { climbCase } from '../recovery/climb.ts';
import { advanceSubscription } from '../subscriptions/advance.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { renewalsToTell, tellOfRenewal } from '../subscriptions/renewals.ts';
import type { EndedWhy } from '../subscriptions/states.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { settleTrial, tellOfTrial, trialsToTell, trialsWithoutCard } from '../subscriptions/trials.ts';
import { sendDigests } from '../staff/notices.ts';
import { raiseNeed } from './needs.ts';

/** Charges asked of the gateway side by side. */
const LANES = 4;

/**
 * Turns one business day: everything due up to it that is not done, in the order of the engine. Each step asks
 * the database what is still to do and does it in small transactions, so that a run that was killed is simply
 * run again, and running a day twice changes nothing.
 *
 * @throws {@link GatewayAway} where the gateway cannot be reached: nothing counts as declined, the day is not
 * finished and is to be run again
 */
export async function turnDay(almanac: Almanac, businessDate: string): Promise<void> {
  const { db } = almanac;
  await db.rows('insert into days (business_date) values ($businessDate) on conflict do nothing', {
    businessDate,
  });
  await resolvePending(almanac);
  await takeMoves(almanac, businessDate);
  await settleTrials(almanac, businessDate);
  await advanceSubscriptions(almanac, businessDate);
  await tellOfTrialsEnding(almanac, businessDate);
  await tellOfRenewals(almanac, businessDate);
  await tellOfDues(almanac, businessDate);
  await tellOfMoves(almanac, businessDate);
  await chargeInvoices(almanac, businessDate);
  await climbCases(almanac, businessDate);
  await endSubscriptions(almanac, businessDate);
  await sendDigests(almanac, businessDate);
  await db.rows('update days set finished_at = now() where business_date = $businessDate', { businessDate });
}

/** One after the other in the order of enrolment, so that invoice numbers come out the same on every run. */
async function advanceSubscriptions(almanac: Almanac, businessDate: string): Promise<void> {
  const due = await almanac.db.rows<{ id: string }>(
    `select id from subscriptions
     where wake_on <= $businessDate and state not in ('lapsed', 'ended')
       and (held_on is null or held_on < $businessDate)
     order by id`,
    { businessDate },
  );
  const law = await loadLaw(almanac);
  for (const { id } of due) {
    await isolated(almanac, id, businessDate, () => advanceSubscription(almanac, law, id, businessDate));
  }
}

/** What becomes of trials that end without a card: it is settled before the first payment after them. */
async function settleTrials(almanac: Almanac, businessDate: string): Promise<void> {
  for (const { id } of await trialsWithoutCard(almanac, businessDate))
    await isolated(almanac, id, businessDate, () => settleTrial(almanac, id, businessDate));
}

async function tellOfTrialsEnding(almanac: Almanac, businessDate: string): Promise<void> {
  for (const { id } of await trialsToTell(almanac, businessDate))
    await isolated(almanac, id, businessDate, () => tellOfTrial(almanac, id, businessDate));
}

async function tellOfRenewals(almanac: Almanac, businessDate: string): Promise<void> {
  for (const { id, days } of await renewalsToTell(almanac, businessDate))
    await isolated(almanac, id, businessDate, () => tellOfRenewal(almanac, id, days, businessDate));
}

/** Writes of later parts of invoices that come nearer. */
async function tellOfDues(almanac: Almanac, businessDate: string): Promise<void> {
  for (const due of await duesToTell(almanac, businessDate))
    await isolated(almanac, due.subscription_id, businessDate, () => tellOfDue(almanac, due, businessDate));
}

/** Writes of changes of rates that come nearer. */
async function tellOfMoves(almanac: Almanac, businessDate: string): Promise<void> {
  for (const move of await movesToTell(almanac, businessDate)) {
    await isolated(almanac, move.subscription_id, businessDate, () =>
      tellOfMove(almanac, move, businessDate),
    );
  }
}

/**
 * Charges what is due and was never tried; what was tried and declined is its case's affair. What is paid by hand is
 * not charged: some days after it was due, a case is opened for it.
 */
async function chargeInvoices(almanac: Almanac, businessDate: string): Promise<void> {
  const due = await almanac.db.rows<{ id: string; subscription_id: string; place: number }>(
    `select i.id, i.subscription_id, min(d.place) as place
     from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
     where d.due_on <= $businessDate and s.state <> 'lapsed'
       and (s.collects = 'automatic' or d.due_on < $patientUntil)
       and (i.case_id is null or (d.of_several and exists (
              select 1 from recovery_cases k where k.id = i.case_id and k.state = 'recovered')))
       and not exists (select 1 from attempts a
                       where a.invoice_id = i.id and (not d.of_several or a.attempted_on >= d.due_on))
     group by i.id order by min(d.due_on), i.id`,
    { businessDate, patientUntil: formatDay(toDay(businessDate) - BY_HAND_GRACE_DAYS) },
  );
  await pMap(
    due,
    (invoice) =>
      isolated(almanac, invoice.subscription_id, businessDate, () =>
        collectInvoice(almanac, {
          invoiceId: invoice.id,
          reason: 'renewal',
          channel: 'import',
          businessDate,
          occasion: invoice.place === 1 ? 'renewal' : `due ${invoice.place}`,
        }),
      ),
    { concurrency: LANES },
  );
}

async function climbCases(almanac: Almanac, businessDate: string): Promise<void> {
  const due = await almanac.db.rows<{ id: string; subscription_id: string }>(
    `select id, subscription_id from recovery_cases
     where state = 'open' and (next_rung_on <= $businessDate or retry_on <= $businessDate)
     order by id`,
    { businessDate },
  );
  for (const { id, subscription_id } of due) {
    await isolated(almanac, subscription_id, businessDate, () => climbCase(almanac, id, businessDate));
  }
}

async function endSubscriptions(almanac: Almanac, businessDate: string): Promise<void> {
  const ending = await almanac.db.rows<{ id: string }>(
    `select id from subscriptions
     where ends_on <= $businessDate and state not in ('lapsed', 'ended') order by id`,
    { businessDate },
  );
  for (const { id } of ending) {
    await isolated(almanac, id, businessDate, () =>
      almanac.db.transaction(async (within) => {
        const subscription = await Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
        const endsOn = subscription.endsOn ?? businessDate;
        await subscription.update(
          { state: 'ended', endedWhy: endedWhyOf(subscription), wakeOn: null, closedOn: endsOn },
          { transaction: within },
        );
        // Who cancelled was told then when it ends.
        if ((subscription.cancelledBy ?? null) !== null) return;
        const letter = {
          event: 'ended',
          onceKey: `ended:${id}`,
          reason: 'The subscription is complete',
          says: { date: sayDate(endsOn) },
        } as const;
        await writeAbout(almanac, subscription, letter, businessDate, within);
      }),
    );
  }
}

function endedWhyOf({ cancelledBy }: { readonly cancelledBy: 'customer' | 'business' | null }): EndedWhy {
  return cancelledBy === null ? 'completed' : `cancelled by the ${cancelledBy}`;
}

/**
 * One customer's trouble never stops the others: it becomes a line on the day sheet. A gateway that is away is
 * everybody's trouble, and stops the day.
 */
async function isolated(
  almanac: Almanac,
  subscriptionId: string,
  businessDate: string,
  work: () => Promise<unknown>,
): Promise<void> {
  try {
    await work();
  } catch (error) {
    if (error instanceof GatewayAway) throw error;
    const says = error instanceof Error ? error.message : String(error);
    await almanac.db.rows('update subscriptions set held_on = $businessDate where id = $subscriptionId', {
      businessDate,
      subscriptionId,
    });
    await raiseNeed(almanac, undefined, {
      onceKey: `held:${subscriptionId}:${businessDate}`,
      arose: businessDate,
      kind: 'held',
      says: `This could not be processed and was left as it was: ${says.slice(0, 300)}`,
      subscriptionId,
      customerId: null,
    });
  }
}
