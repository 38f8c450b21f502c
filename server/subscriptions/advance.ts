import type { Transaction } from 'sequelize';
import { formatDay, toDay, type Day } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Payment } from '../../core/listing/payment.ts';
import type { Law } from '../../core/terms/law.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { keepCredit } from '../customers/credit.ts';
import { linkForLetter } from '../customers/link.ts';
import { balanceOf, type Invoice } from '../invoices/Invoice.ts';
import { issueInvoice, issueWholeInvoice } from '../invoices/issueInvoice.ts';
import { sayCurrentCard, sayPeriod, writeAbout } from '../notices/occasions.ts';
import { lawFactsOf } from './law.ts';
import { currentMethod } from '../payments/currentMethod.ts';
import { issueDay } from './issueDay.ts';
import { lockedSubscription } from './lock.ts';
import { standOn } from './stand.ts';
import { nextWake } from './standing.ts';
import type { Subscription } from './Subscription.ts';

/**
 * Brings one subscription up to a business day: it starts, its trial ends, it pauses or resumes, and every
 * payment whose boundary has come is invoiced. One transaction; done again for the same day it does nothing,
 * because the place of the walk moves on with the invoices.
 */
export function advanceSubscription(
  almanac: Almanac,
  law: Law,
  id: string,
  businessDate: string,
): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const subscription = await lockedSubscription(id, within);
    const { wakeOn } = subscription;
    if (subscription.state === 'lapsed' || wakeOn === null || wakeOn === undefined) return;
    if (wakeOn > businessDate) return;
    const terms = law.compile(await lawFactsOf(almanac, id, within));
    const invoiceDue = subscription.invoicing === 'whole' ? invoiceWhole : invoiceEach;
    const { reached, next } = await invoiceDue(almanac, subscription, terms, businessDate, within);
    const starts = await standOn(subscription, businessDate, within);
    await subscription.update(
      { walk: reached, wakeOn: nextWake(subscription, businessDate, next), heldOn: null },
      { transaction: within },
    );
    if (subscription.state === 'ended' && next === null) await keepCredit(subscription, businessDate, within);
    if (starts) await welcome(almanac, subscription, terms, businessDate, within);
  });
}

/** How far a subscription has been invoiced, and the day on which there is more to invoice. */
interface Invoiced {
  readonly reached: WalkPosition | null;
  readonly next: Day | null;
}

/** Invoices every payment whose boundary has come. */
async function invoiceEach(
  almanac: Almanac,
  subscription: Subscription,
  terms: CompiledTerms,
  businessDate: string,
  within: Transaction,
): Promise<Invoiced> {
  const today = toDay(businessDate);
  const dayOf = await issueDaysOf(subscription, within);
  const walk = new PaymentWalk(terms, subscription.walk ?? undefined);
  // Until it starts, nothing has been walked of it: its place is that of its first invoice.
  let reached = businessDate < subscription.startsOn ? (subscription.walk ?? null) : walk.position();
  let next: Payment | null;
  for (next = walk.next(); next !== null && dayOf(next) <= today; next = walk.next()) {
    const lawTax = terms.taxOn?.(next.from) ?? null;
    const invoice = await issueInvoice(almanac, subscription, next, lawTax, businessDate, within);
    if (subscription.collects === 'by hand' && next.due > 0n)
      await askToPay(almanac, subscription, invoice, businessDate, within);
    reached = walk.position();
  }
  return { reached, next: next && dayOf(next) };
}

/** The day on which each payment is invoiced. While a trial may still end without a card, nothing after it is before its time. */
async function issueDaysOf(
  subscription: Subscription,
  within: Transaction,
): Promise<(payment: Payment) => Day> {
  const { withoutMethod, trialEndsOn } = subscription;
  if (withoutMethod === null || withoutMethod === undefined || !trialEndsOn) return issueDay;
  if ((await currentMethod(subscription.customerId, within))?.state === 'usable') return issueDay;
  const trialEnds = toDay(trialEndsOn);
  return (payment) => (payment.from >= trialEnds ? payment.from : issueDay(payment));
}

/**
 * Invoices the whole of a fixed term on the day of its first payment. The tax is that of this day for all of it: what
 * is invoiced is taxed as it was then.
 */
async function invoiceWhole(
  almanac: Almanac,
  subscription: Subscription,
  terms: CompiledTerms,
  businessDate: string,
  within: Transaction,
): Promise<Invoiced> {
  if (subscription.walk !== null) return { reached: subscription.walk, next: null };
  const first = new PaymentWalk(terms).next()?.from ?? null;
  if (first === null || first > toDay(businessDate)) return { reached: null, next: first };
  const lawTax = terms.taxOn?.(first) ?? null;
  const walk = new PaymentWalk(terms.taxOn ? { ...terms, taxOn: () => lawTax } : terms);
  const payments: Payment[] = [];
  for (let payment = walk.next(); payment !== null; payment = walk.next()) payments.push(payment);
  const invoice = await issueWholeInvoice(almanac, subscription, payments, lawTax, businessDate, within);
  if (invoice && subscription.collects === 'by hand')
    await askToPay(almanac, subscription, invoice, businessDate, within);
  return { reached: walk.position(), next: null };
}

/** Sends an invoice that its customer pays by hand, with the way to pay it. */
async function askToPay(
  almanac: Almanac,
  subscription: Subscription,
  invoice: Invoice,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const number = `${invoice.prefix}${invoice.number}`;
  const parts = await almanac.db.rows<{ due_on: string; amount: string }>(
    'select due_on, amount::text from dues where invoice_id = $id order by place',
    { id: invoice.id },
    within,
  );
  const said = parts.map(
    ({ due_on, amount }) => `${sayAmount(BigInt(amount), invoice.currency)} by ${sayDate(due_on)}`,
  );
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'invoice to pay',
      onceKey: `to-pay:${invoice.id}`,
      reason: `Invoice ${number}`,
      linkId: (await linkForLetter(subscription, businessDate, within)).id,
      says: {
        invoice: number,
        amount: sayAmount(balanceOf(invoice), invoice.currency),
        date: sayDate(invoice.dueOn),
        period: sayPeriod(invoice),
        ...(said.length > 1 ? { next: `It is paid in ${said.length} parts: ${said.join(', ')}.` } : {}),
      },
    },
    businessDate,
    within,
  );
}

async function welcome(
  almanac: Almanac,
  subscription: Subscription,
  terms: CompiledTerms,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const first = firstCharge(terms);
  const nothing = { amount: '', next: '' };
  const charge =
    first === null
      ? nothing
      : {
          amount: sayAmount(first.due, subscription.terms.currency),
          next: sayDate(formatDay(first.dueOn)),
        };
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'started',
      onceKey: `started:${subscription.id}`,
      reason: 'The subscription started',
      says: {
        date: sayDate(subscription.startsOn),
        ...charge,
        card: await sayCurrentCard(subscription.customerId, within),
        reason: (await waitsForCard(subscription, within)) ? 'no card' : subscription.collects,
      },
    },
    businessDate,
    within,
  );
}

/** Whether a subscription began without the card that it will need. */
async function waitsForCard(subscription: Subscription, within: Transaction): Promise<boolean> {
  return (
    subscription.withoutMethod !== null && (await currentMethod(subscription.customerId, within)) === null
  );
}

/** So far ahead the first charge is looked for: what costs nothing for longer is said to cost nothing. */
const YEARS_AHEAD = 100;

/**
 * The first payment with something to pay, from the start of the terms or on or after a day; null where there is none
 * within a hundred years.
 */
export function firstCharge(terms: CompiledTerms, onOrAfter = ''): Payment | null {
  const from = onOrAfter === '' ? -Infinity : toDay(onOrAfter);
  const walk = new PaymentWalk(terms);
  let horizon = Infinity;
  for (let payment = walk.next(); payment !== null; payment = walk.next()) {
    if (horizon === Infinity) horizon = Math.max(payment.from, from) + YEARS_AHEAD * 366;
    if (payment.due > 0n && payment.from >= from) return payment;
    if (payment.from > horizon) return null;
  }
  return null;
}
