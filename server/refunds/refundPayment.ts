import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { correctWithin } from '../creditNotes/correctInvoice.ts';
import { creditAtHand } from '../customers/credit.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedInvoice } from '../invoices/lockInvoice.ts';
import { holdSubscriptions, lockedCustomer } from '../subscriptions/lock.ts';
import type { RefundEffect, WantedRefund } from './messages.ts';
import { askedFor, payOutWithin } from './payOut.ts';
import { refundable } from './refundable.ts';

/** A refund is looked at by doing it, and taking it back. */
class Shown extends Error {
  constructor(readonly effect: RefundEffect) {
    super('Only looked at.');
  }
}

/** What a refund would do to the invoice, the customer's credit, the books and the subscription. Changes nothing. */
export async function effectOfRefund(
  almanac: Almanac,
  attemptId: string,
  wanted: WantedRefund,
): Promise<RefundEffect> {
  try {
    return await almanac.db.transaction(async (within) => {
      throw new Shown(await refundWithin(almanac, attemptId, wanted, within));
    });
  } catch (error) {
    if (!(error instanceof Shown)) throw error;
    return { ...error.effect, creditNote: null, id: null, state: null };
  }
}

/**
 * Pays money of a payment back: a credit note corrects its invoice, and what that gives goes back to the card or account, to the
 * customer's credit, or by hand. Both are one act; the gateway is asked once it is written down.
 */
export async function refundPayment(
  almanac: Almanac,
  attemptId: string,
  wanted: WantedRefund,
): Promise<RefundEffect> {
  const effect = await almanac.db.transaction((within) => refundWithin(almanac, attemptId, wanted, within));
  return askedFor(almanac, effect);
}

async function refundWithin(
  almanac: Almanac,
  attemptId: string,
  wanted: WantedRefund,
  within: Transaction,
): Promise<RefundEffect> {
  const found = await refundable(almanac, attemptId, within);
  if (!found) throw new RefusedCommand(404, 'There is no such payment.');
  const { invoiceId, customerId, currency } = found;
  await lockedCustomer(customerId, within);
  await holdSubscriptions(almanac, customerId, within);
  const { invoice, subscription } = await lockedInvoice(invoiceId, within);
  // Looked at again under the locks: somebody may have paid some of it back meanwhile.
  const paid = await refundable(almanac, attemptId, within);
  if (!paid) throw new RefusedCommand(404, 'There is no such payment.');
  if (BigInt(wanted.amount) > BigInt(paid.left))
    throw new RefusedCommand(
      422,
      `At most ${sayAmount(BigInt(paid.left), currency)} of this payment can go back.`,
      '/amount',
    );
  if (invoice.owed > 0n)
    throw new RefusedCommand(
      409,
      `${sayAmount(invoice.owed, currency)} of invoice ${paid.invoice} is still open: credit that first, or pay out credit at hand.`,
    );
  const { reason, amount, to } = wanted;
  const writesNote = wanted.writes && to === 'credit';
  const note = await correctWithin(
    almanac,
    invoiceId,
    { what: { kind: 'amount', amount }, reason, writes: writesNote },
    within,
  );
  const next = subscription.wakeOn;
  const says =
    subscription.state === 'ended' || subscription.state === 'lapsed'
      ? `The subscription is ${subscription.state}: nothing about it changes.`
      : `The subscription goes on${next ? `, next on ${sayDate(next)}` : ''}: end or change it by itself if it should not.`;
  const shown = { invoice: paid.invoice, creditNote: note.number, subscription: says };
  if (to === 'credit')
    return {
      ...{ ...shown, currency, amount, to: 'the customer’s credit', books: note.books },
      credit: (await creditAtHand(almanac, { customerId, currency }, within)).toString(),
      ...{ id: null, state: 'done' },
    };
  const out = await payOutWithin(
    almanac,
    customerId,
    {
      ...{ currency, amount, to, reason, writes: wanted.writes },
      ...(to === 'gateway' ? { attemptId } : {}),
    },
    within,
    note.id,
  );
  return { ...out, ...shown, books: [...note.books, ...out.books] };
}
