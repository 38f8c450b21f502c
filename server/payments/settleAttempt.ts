import type { Transaction } from 'sequelize';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { Customer } from '../customers/Customer.ts';
import { tellStaff } from '../staff/notices.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import type { ChargeRecord } from '../gateways/port.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { queueReceipt } from '../notices/occasions.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { openOrJoinCase } from '../recovery/openCase.ts';
import { Attempt } from './Attempt.ts';
import { Payment } from './Payment.ts';

/**
 * Writes the outcome of an attempt and all that follows from it, in one transaction: the payment and its
 * receipt, or the recovery case. Told the same outcome again (an answer and a webhook, or two answers after a
 * crash) it does nothing more.
 */
export function settleAttempt(almanac: Almanac, charge: ChargeRecord): Promise<'collected' | 'declined'> {
  return almanac.db.transaction(async (within) => {
    const found = await Attempt.findOne({
      where: { idempotencyKey: charge.idempotencyKey },
      transaction: within,
      rejectOnEmpty: true,
    });
    // The invoice is locked before its attempt, here as when an attempt is made, so that the two never wait for each other.
    const invoice = await Invoice.findByPk(found.invoiceId, {
      transaction: within,
      lock: within.LOCK.UPDATE,
      rejectOnEmpty: true,
    });
    const attempt = await found.reload({ transaction: within, lock: within.LOCK.UPDATE });
    if (attempt.state !== 'pending') return attempt.state;
    const outcome = { responseCode: charge.code, gatewayCharge: charge.id, settledAt: new Date() };
    await attempt.update({ state: charge.state, ...outcome }, { transaction: within });
    if (charge.state === 'collected') await recordPayment(almanac, attempt, invoice, within);
    else await recordDecline(almanac, attempt, invoice, charge.code, within);
    return charge.state;
  });
}

async function recordPayment(
  almanac: Almanac,
  attempt: Attempt,
  invoice: Invoice,
  within: Transaction,
): Promise<void> {
  const payment = await Payment.create(
    {
      invoiceId: invoice.id,
      attemptId: attempt.id,
      amount: attempt.amount,
      currency: invoice.currency,
      paidOn: attempt.attemptedOn,
    },
    { transaction: within },
  );
  const collected = invoice.collected + attempt.amount;
  const owed = invoice.total - invoice.creditUsed;
  await invoice.update(
    { collected, state: collected >= owed ? 'paid' : 'part-paid' },
    { transaction: within },
  );
  await tell(almanac, attempt, invoice, 'payment collected', '', within);
  await queueReceipt(almanac, invoice, payment, attempt, within);
  await closeIfPaid(almanac, invoice, attempt.attemptedOn, within);
}

async function recordDecline(
  almanac: Almanac,
  attempt: Attempt,
  invoice: Invoice,
  code: string,
  within: Transaction,
): Promise<void> {
  const meaning = meaningOf(code);
  if (meaning.class === 'ask' || meaning.class === 'never') {
    const state = meaning.class === 'never' ? 'barred' : 'needs-customer';
    await PaymentMethod.update(
      { state },
      { where: { id: attempt.paymentMethodId, state: ['usable', 'needs-customer'] }, transaction: within },
    );
  }
  await openOrJoinCase(almanac, invoice, meaning, attempt.attemptedOn, within);
  await tell(almanac, attempt, invoice, 'payment failed', ` Declined: ${meaning.says}.`, within);
}

async function tell(
  almanac: Almanac,
  attempt: Attempt,
  invoice: Invoice,
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
    writtenOn: attempt.attemptedOn,
  };
  await tellStaff(almanac, notice, within);
}
