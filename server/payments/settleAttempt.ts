import type { Transaction } from 'sequelize';
import { meaningOf, type DeclineMeaning } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { Business } from '../business/Business.ts';
import { Customer } from '../customers/Customer.ts';
import { tellStaff } from '../staff/notices.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import type { SettledCharge } from '../gateways/port.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { saidCard } from '../notices/occasions.ts';
import { queueReceipts, type Receipt } from '../notices/receipts.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { closeIfPaid, noteRungClimbed } from '../recovery/closeCase.ts';
import { openOrJoinCase } from '../recovery/openCase.ts';
import { lockedSubscription } from '../subscriptions/lock.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { Attempt } from './Attempt.ts';
import { isByItself } from './attemptReason.ts';
import { methodsInTurn, nextMethod } from './methodsInTurn.ts';
import { attemptsOn, declinedIn, occasionOf } from './occasion.ts';
import { writePayments } from './writePayments.ts';

/**
 * Writes the outcome of an attempt and all that follows from it, in one transaction: the payment and its
 * receipt, or the recovery case. Told the same outcome again (an answer and a webhook, or two answers after a
 * crash) it does nothing more.
 * @param on the business date on which the outcome is learned: what follows from it is of that day
 */
export function settleAttempt(
  almanac: Almanac,
  charge: SettledCharge,
  on: string,
): Promise<'collected' | 'declined' | 'next method'> {
  return almanac.db.transaction(async (within) => {
    const found = await Attempt.findOne({
      where: { idempotencyKey: charge.idempotencyKey },
      transaction: within,
      rejectOnEmpty: true,
    });
    const { subscriptionId } = await Invoice.findByPk(found.invoiceId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const subscription = await lockedSubscription(subscriptionId, within);
    const invoice = await Invoice.findByPk(found.invoiceId, {
      transaction: within,
      lock: within.LOCK.UPDATE,
      rejectOnEmpty: true,
    });
    const attempt = await found.reload({ transaction: within, lock: within.LOCK.UPDATE });
    if (attempt.state === 'collected') return 'collected';
    if (attempt.state === 'declined') return attempt.goesOn ? 'next method' : 'declined';
    const outcome = { responseCode: charge.code, gatewayCharge: charge.id, settledAt: new Date() };
    // It counts for the day on which its outcome is known; what was asked of the gateway keeps its own.
    await attempt.update({ state: charge.state, attemptedOn: on, ...outcome }, { transaction: within });
    const settled = { attempt, invoice, subscription, on };
    if (charge.state === 'declined') return recordDecline(almanac, settled, charge.code, within);
    await recordPayment(almanac, settled, within);
    return 'collected';
  });
}

interface Settled {
  readonly attempt: Attempt;
  readonly invoice: Invoice;
  readonly subscription: Subscription;
  readonly on: string;
}

async function recordPayment(
  almanac: Almanac,
  { attempt, invoice, subscription, on }: Settled,
  within: Transaction,
): Promise<void> {
  const { amount } = attempt;
  const { currency } = invoice;
  const written = { invoiceId: invoice.id, attemptId: attempt.id, amount, currency, paidOn: on };
  const [paymentId = ''] = await writePayments(almanac, [written], within);
  await invoice.reload({ transaction: within });
  await tell(almanac, { attempt, invoice, on }, 'payment collected', '', within);
  await queueReceipts(
    almanac,
    [await receiptOf({ attempt, invoice, subscription, on }, paymentId, within)],
    within,
  );
  await settleRefusals(almanac, invoice, on, within);
  await noteRungClimbed(almanac, attempt, on, within);
  await closeIfPaid(almanac, { subscription, invoice }, on, within);
}

async function receiptOf(
  { attempt, invoice, subscription, on }: Settled,
  paymentId: string,
  within: Transaction,
): Promise<Receipt> {
  const asked = { transaction: within, rejectOnEmpty: true } as const;
  const customer = await Customer.findByPk(invoice.customerId, asked);
  const method = await PaymentMethod.findByPk(attempt.paymentMethodId, asked);
  const business = await Business.findOne(asked);
  const { planId } = await Rate.findByPk(subscription.rateId, asked);
  const plan = await Plan.findByPk(planId, asked);
  return {
    ...{ paymentId, customerId: customer.id, subscriptionId: subscription.id },
    ...{ customer: customer.name, email: customer.email, business: business.name },
    plan: plan.outerName || plan.name,
    ...{ amount: attempt.amount, currency: invoice.currency, paidOn: on },
    invoice: `${invoice.prefix}${invoice.number}`,
    ...{ periodFrom: invoice.periodFrom, periodTo: invoice.periodTo },
    card: saidCard(method),
    statementText: attempt.request?.statementText ?? business.statementText,
  };
}

/** What a person was to see to of charges of this invoice that were refused is off the day sheet: it is paid. */
async function settleRefusals(
  almanac: Almanac,
  invoice: Invoice,
  on: string,
  within: Transaction,
): Promise<void> {
  if (invoice.state !== 'paid') return;
  await almanac.db.rows(
    `update needs set settled_on = $on where settled_on is null and once_key in (
       select 'refused:' || id from attempts where invoice_id = $invoiceId and state = 'refused')`,
    { on, invoiceId: invoice.id },
    within,
  );
}

async function recordDecline(
  almanac: Almanac,
  { attempt, invoice, subscription, on }: Settled,
  code: string,
  within: Transaction,
): Promise<'declined' | 'next method'> {
  const meaning = meaningOf(code);
  if (meaning.class === 'ask' || meaning.class === 'never') {
    const state = meaning.class === 'never' ? 'barred' : 'needs-customer';
    await PaymentMethod.update(
      { state },
      { where: { id: attempt.paymentMethodId, state: ['usable', 'needs-customer'] }, transaction: within },
    );
  }
  const methods = await methodsInTurn(subscription, within);
  const tried = declinedIn(await attemptsOn(occasionOf(attempt).key, invoice.id, within));
  if (isByItself(attempt.reason) && (await nextMethod(methods, tried, within)) !== null) {
    await attempt.update({ goesOn: true }, { transaction: within });
    return 'next method';
  }
  // Who pays by hand and tries before their day is over owes as before: it becomes a case when it is late.
  if (subscription.collects === 'by hand' && !isByItself(attempt.reason) && invoice.caseId === null) {
    await tell(almanac, { attempt, invoice, on }, 'payment failed', ` Declined: ${meaning.says}.`, within);
    return 'declined';
  }
  // What staff try before its day is charged by itself when that comes.
  if (attempt.reason === 'by staff' && invoice.dueOn > on && invoice.caseId === null) {
    await tell(almanac, { attempt, invoice, on }, 'payment failed', ` Declined: ${meaning.says}.`, within);
    return 'declined';
  }
  const tells = tellsOfCase(attempt, methods, meaning);
  await openOrJoinCase(almanac, { subscription, invoice }, tells, on, within);
  await tell(almanac, { attempt, invoice, on }, 'payment failed', ` Declined: ${meaning.says}.`, within);
  return 'declined';
}

/** What a decline says of the case: an answer about one method says nothing of another that can still be charged. */
function tellsOfCase(
  { paymentMethodId }: Attempt,
  methods: readonly PaymentMethod[],
  meaning: DeclineMeaning,
): DeclineMeaning | null {
  // The card was replaced meanwhile: whatever is in use was not tried.
  if (methods.length > 0 && !methods.some(({ id }) => id === paymentMethodId)) return null;
  const needsHolder = meaning.class === 'ask' || meaning.class === 'never';
  const another = methods.some(({ id, state }) => id !== paymentMethodId && state === 'usable');
  return needsHolder && another ? { ...meaning, class: 'wait' } : meaning;
}

async function tell(
  almanac: Almanac,
  { attempt, invoice, on }: Pick<Settled, 'attempt' | 'invoice' | 'on'>,
  kind: 'payment collected' | 'payment failed',
  why: string,
  within: Transaction,
): Promise<void> {
  const customer = await Customer.findByPk(invoice.customerId, { transaction: within, rejectOnEmpty: true });
  const sum = sayAmount(attempt.amount, invoice.currency);
  const failed = kind === 'payment failed';
  const notice = {
    kind,
    onceKey: `attempt:${attempt.id}`,
    subject: `${customer.name}: ${sum} ${failed ? 'was declined' : 'collected'}`,
    says: `${customer.name}, invoice ${invoice.prefix}${invoice.number}: ${sum} ${failed ? 'failed.' : 'collected.'}${why}`,
    writtenOn: on,
  };
  await tellStaff(almanac, notice, within);
}
