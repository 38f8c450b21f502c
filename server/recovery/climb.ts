import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf, NO_METHOD } from '../../core/recovery/declineCodes.ts';
import { mayRetry, rungDay } from '../../core/recovery/ladder.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { linkForCase } from '../customers/link.ts';
import { sayCurrentCard, writeAbout } from '../notices/occasions.ts';
import type { LetterEvent } from '../notices/templates.ts';
import { collectInvoice } from '../payments/collect.ts';
import { raiseNeed, settleNeeds } from '../run/needs.ts';
import { tellStaff } from '../staff/notices.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { Ladder } from './Ladder.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/** Letters that count as recovery notices: a customer gets at most one a day. */
const RECOVERY_EVENTS: readonly LetterEvent[] = [
  'payment declined',
  'payment still declined',
  'invoice overdue',
  'last reminder',
  'lapsed',
];

/**
 * Does for one open case what its ladder says for a business day: an early retry, the next rung, or the final
 * action. Each step is named by case and rung, so that one cut short is finished and none is done twice.
 */
export async function climbCase(almanac: Almanac, caseId: string, businessDate: string): Promise<void> {
  const opened = await RecoveryCase.findByPk(caseId, { rejectOnEmpty: true });
  if (opened.state !== 'open') return;
  if (opened.retryOn !== null && opened.retryOn <= businessDate) {
    await retryInvoices(almanac, opened, `early retry ${opened.retryOn}`, businessDate);
    await opened.reload();
    if (opened.state !== 'open') return;
    await opened.update({ retryOn: null });
  }
  if (opened.nextRungOn === null || opened.nextRungOn > businessDate) return;
  const ladder = await Ladder.findByPk(opened.ladderId, { rejectOnEmpty: true });
  const rung = ladder.rungs[opened.nextRung];
  if (rung === undefined) {
    await takeFinalAction(almanac, opened, ladder, businessDate);
    return;
  }
  if (rung.letter && (await wroteToday(almanac, opened, businessDate))) {
    await opened.update({ nextRungOn: formatDay(toDay(businessDate) + 1) });
    return;
  }
  const retries = mayRetry(rung, opened.declineClass);
  if (retries) await retryInvoices(almanac, opened, `rung ${opened.nextRung}`, businessDate);
  await almanac.db.transaction((within) =>
    finishRung(almanac, opened.id, ladder, retries, businessDate, within),
  );
}

async function retryInvoices(
  almanac: Almanac,
  opened: RecoveryCase,
  step: string,
  businessDate: string,
): Promise<void> {
  for (const invoice of await unpaidInvoices(almanac, opened.id, businessDate)) {
    await collectInvoice(almanac, {
      invoiceId: invoice.id,
      reason: 'retry',
      channel: 'import',
      businessDate,
      occasion: `case ${opened.id} ${step}`,
    });
  }
}

async function finishRung(
  almanac: Almanac,
  caseId: string,
  ladder: Ladder,
  retried: boolean,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const opened = await lockedCase(caseId, within);
  const recovered = opened.state !== 'open';
  const rung = ladder.rungs[opened.nextRung];
  if (rung === undefined) return;
  const following = opened.nextRung + 1;
  const tomorrow = toDay(businessDate) + 1;
  const nextRungOn = formatDay(Math.max(rungDay(ladder, toDay(opened.openedOn), following), tomorrow));
  const wrote =
    !recovered && rung.letter && (await writeRung(almanac, opened, ladder, nextRungOn, businessDate, within));
  const did = [
    retried ? (recovered ? 'retried and collected' : 'retried') : '',
    wrote ? 'wrote to the customer' : '',
  ]
    .filter(Boolean)
    .join(', ');
  await almanac.db.rows(
    `insert into rungs_climbed (case_id, rung, climbed_on, did) values ($caseId, $rung, $businessDate, $did)`,
    { caseId, rung: opened.nextRung, businessDate, did: did || 'nothing to do' },
    within,
  );
  if (!recovered) await opened.update({ nextRung: following, nextRungOn }, { transaction: within });
}

async function writeRung(
  almanac: Almanac,
  opened: RecoveryCase,
  ladder: Ladder,
  nextRungOn: string,
  businessDate: string,
  within: Transaction,
): Promise<boolean> {
  const subscription = await Subscription.findByPk(opened.subscriptionId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const byHand = subscription.collects === 'by hand';
  const isLast = opened.nextRung === ladder.rungs.length - 1;
  const stops = isLast && ladder.finalAction !== 'leave';
  const nextRung = ladder.rungs[opened.nextRung + 1];
  const triesAgain = nextRung !== undefined && mayRetry(nextRung, opened.declineClass);
  return writeAbout(
    almanac,
    subscription,
    {
      event: rungEvent(opened.nextRung, stops, byHand),
      onceKey: `case:${opened.id}:rung:${opened.nextRung}`,
      reason: `Recovery, step ${opened.nextRung + 1} of ${ladder.rungs.length}`,
      caseId: opened.id,
      linkId: (await linkFor(opened, subscription, businessDate, within)).id,
      says: {
        amount: await sayOwed(almanac, opened.id, businessDate, within),
        card: await sayCurrentCard(subscription.customerId, within),
        reason: byHand ? 'the invoice has not been paid' : await whyDeclined(almanac, opened, within),
        date: sayDate(nextRungOn),
        next: byHand
          ? 'It can be paid on your own page.'
          : triesAgain
            ? `We try the card again on ${sayDate(nextRungOn)}.`
            : 'We cannot try this card again until you have given us another or had it mended.',
      },
    },
    businessDate,
    within,
  );
}

function rungEvent(rung: number, stops: boolean, byHand: boolean): LetterEvent {
  if (stops && rung > 0) return 'last reminder';
  if (byHand) return 'invoice overdue';
  return rung === 0 ? 'payment declined' : 'payment still declined';
}

/** Lapses or ends the subscription as its ladder says, and tells the customer and the day sheet. */
async function takeFinalAction(
  almanac: Almanac,
  { id }: RecoveryCase,
  ladder: Ladder,
  businessDate: string,
): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const opened = await lockedCase(id, within);
    if (opened.state !== 'open') return;
    const subscription = await Subscription.findByPk(opened.subscriptionId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    await opened.update(
      { state: 'given up', closedOn: businessDate, nextRungOn: null, retryOn: null },
      { transaction: within },
    );
    if (ladder.finalAction === 'leave' || subscription.state === 'ended') return;
    const ends = ladder.finalAction === 'end';
    await subscription.update(
      {
        state: ends ? 'ended' : 'lapsed',
        endedWhy: ends ? 'given up' : null,
        wakeOn: null,
        closedOn: businessDate,
      },
      { transaction: within },
    );
    const owed = await sayOwed(almanac, id, businessDate, within);
    if (ladder.finalAction === 'lapse and write off') {
      await almanac.db.rows(
        `update invoices set state = 'written off' where case_id = $id and state in ('open', 'part-paid')`,
        { id },
        within,
      );
    }
    await writeAbout(
      almanac,
      subscription,
      {
        event: 'lapsed',
        onceKey: `case:${id}:final`,
        reason: 'Recovery failed: the final notice',
        caseId: id,
        linkId: (await linkFor(opened, subscription, businessDate, within)).id,
        says: { amount: owed, date: sayDate(businessDate) },
      },
      businessDate,
      within,
    );
    const customer = await Customer.findByPk(subscription.customerId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    await tellStaff(
      almanac,
      {
        kind: 'subscription lapsed',
        onceKey: `lapsed:${id}`,
        subject: `${customer.name}: the subscription ${ends ? 'has ended' : 'has lapsed'}`,
        says: `The subscription of ${customer.name} ${ends ? 'has ended' : 'has lapsed'} with ${owed} open. All retries failed and the customer did not answer.`,
        writtenOn: businessDate,
      },
      within,
    );
    await settleNeeds(almanac, within, `case:${id}`, businessDate);
    await raiseNeed(almanac, within, {
      onceKey: `lapsed:${id}`,
      arose: businessDate,
      kind: 'lapsed',
      says: `Lapsed with ${owed} open. All retries failed and the customer did not answer.`,
      subscriptionId: subscription.id,
      customerId: subscription.customerId,
    });
  });
}

/** Locks the subscription, then its case: the order in which everything here takes them. */
async function lockedCase(caseId: string, within: Transaction): Promise<RecoveryCase> {
  const found = await RecoveryCase.findByPk(caseId, { transaction: within, rejectOnEmpty: true });
  const lock = within.LOCK.UPDATE;
  await Subscription.findByPk(found.subscriptionId, { transaction: within, lock });
  return found.reload({ transaction: within, lock });
}

function linkFor(
  opened: RecoveryCase,
  subscription: Subscription,
  businessDate: string,
  within: Transaction,
) {
  const subject = { caseId: opened.id, customerId: subscription.customerId, subscriptionId: subscription.id };
  return linkForCase(subject, businessDate, within);
}

interface Unpaid {
  readonly id: string;
  readonly currency: string;
  readonly balance: string;
}

/** The invoices of a case of which something has come due and is owed, oldest first. */
export function unpaidInvoices(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  within?: Transaction,
): Promise<Unpaid[]> {
  return almanac.db.rows<Unpaid>(
    `select i.id, i.currency, sum(d.owed)::text as balance from invoices i join open_dues d on d.invoice_id = i.id
     where i.case_id = $caseId and (d.due_on <= $businessDate or not d.of_several)
     group by i.id order by min(d.due_on), i.id`,
    { caseId, businessDate },
    within,
  );
}

async function sayOwed(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  within: Transaction,
): Promise<string> {
  const unpaid = await unpaidInvoices(almanac, caseId, businessDate, within);
  const sum = unpaid.reduce((total, { balance }) => total + BigInt(balance), 0n);
  return sayAmount(sum, unpaid[0]?.currency ?? 'GBP');
}

async function whyDeclined(almanac: Almanac, opened: RecoveryCase, within: Transaction): Promise<string> {
  const last = await almanac.db.row<{ code: string }>(
    `select a.response_code as code from attempts a join invoices i on i.id = a.invoice_id
     where i.case_id = $caseId and a.state = 'declined' order by a.id desc limit 1`,
    { caseId: opened.id },
    within,
  );
  return last ? meaningOf(last.code).says : NO_METHOD.says;
}

async function wroteToday(almanac: Almanac, opened: RecoveryCase, businessDate: string): Promise<boolean> {
  const written = await almanac.db.row(
    `select 1 from letters l join subscriptions s on s.customer_id = l.customer_id
     where s.id = $subscriptionId and l.written_on = $businessDate and l.event = any($events) limit 1`,
    { subscriptionId: opened.subscriptionId, businessDate, events: RECOVERY_EVENTS },
  );
  return written !== null;
}
