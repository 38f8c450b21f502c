import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { paidOut } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { sayEntries } from '../books/sayEntry.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { lockCredit, moveCredit } from '../customers/credit.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Means } from '../payments/meansKinds.ts';
import { holdSubscriptions, lockedCustomer } from '../subscriptions/lock.ts';
import { placeOfMeans } from '../takings/take.ts';
import { MEANS_NAMES } from '../payments/meansKinds.ts';
import { askForRefund } from './askForRefund.ts';
import type { RefundEffect, WantedPayOut } from './messages.ts';
import { refundable, type Refundable } from './refundable.ts';
import { tellOfRefund } from './tellOfRefund.ts';

/** What paying out credit would do. Changes nothing. */
export function effectOfPayOut(
  almanac: Almanac,
  customerId: string,
  wanted: WantedPayOut,
): Promise<RefundEffect> {
  return almanac.db.transaction(
    async (within) => (await prepare(almanac, customerId, wanted, within)).effect,
  );
}

/** Pays out a customer's credit: what goes by a gateway is stored first, and then asked of it. */
export async function payOut(
  almanac: Almanac,
  customerId: string,
  wanted: WantedPayOut,
): Promise<RefundEffect> {
  const effect = await almanac.db.transaction((within) => payOutWithin(almanac, customerId, wanted, within));
  return askedFor(almanac, effect);
}

/** The effect of a refund, once its gateway was asked for it where it goes by one. */
export async function askedFor(almanac: Almanac, effect: RefundEffect): Promise<RefundEffect> {
  if (effect.id === null || effect.state !== 'under way') return effect;
  return { ...effect, state: await askForRefund(almanac, effect.id, await businessDateOf(almanac)) };
}

/**
 * Writes down that credit is paid out, and takes it off the balance, so that it is never paid out twice. By hand it is done with
 * that; what goes by a gateway is under way, under a key that is stored with it.
 * @param creditNoteId the credit note that gave it, where it goes back with one
 */
export async function payOutWithin(
  almanac: Almanac,
  customerId: string,
  wanted: WantedPayOut,
  within: Transaction,
  creditNoteId: string | null = null,
): Promise<RefundEffect> {
  const { effect, paid, means, today, customer } = await prepare(almanac, customerId, wanted, within);
  const { currency, reason } = wanted;
  const amount = BigInt(wanted.amount);
  const { instance } = await theBusiness(within);
  const row = await almanac.db.row<{ id: string }>(
    `insert into refunds (customer_id, attempt_id, credit_note_id, means, currency, amount, reason, state, idempotency_key,
       request, asked_on, asked_by, settled_on)
     select $customerId, $attemptId, $creditNoteId, $means, $currency, $amount, $reason, $state,
       $instance || ':refund ' || gen_random_uuid(), $request::jsonb, $today, $askedBy, $settledOn::date
     returning id::text`,
    {
      ...{ customerId, creditNoteId, means, currency, amount: wanted.amount, reason, instance, today },
      attemptId: paid?.attemptId ?? null,
      state: means === 'gateway' ? 'under way' : 'done',
      settledOn: means === 'gateway' ? null : today,
      request:
        means === 'gateway'
          ? JSON.stringify({
              ...{ charge: paid?.gatewayCharge, amount: wanted.amount, currency },
              ...{ reference: `invoice ${paid?.invoice ?? ''}`, businessDate: today },
            })
          : null,
      askedBy: askerNow().who,
    },
    within,
  );
  if (!row) throw new Error('The refund was not written.');
  const refundId = row.id;
  await moveCredit(
    almanac,
    [{ customerId, currency, amount: -amount, movedOn: today, why: 'paid out', refundId }],
    within,
  );
  await post(almanac, [paidOut({ refundId, amount, currency, on: today, at: placeOf(means) })], within);
  if (means !== 'gateway' && wanted.writes) await tellOfRefund(almanac, refundId, today, within);
  await recordDone(
    almanac,
    {
      did: 'paid money back',
      subject: customer.name,
      after: { amount: sayAmount(amount, currency), to: effect.to, reason },
    },
    within,
  );
  return { ...effect, id: refundId, state: means === 'gateway' ? 'under way' : 'done' };
}

/** Where money is that is paid out. */
export const placeOf = (means: Means) => (means === 'gateway' ? 'clearing' : placeOfMeans(means));

async function prepare(almanac: Almanac, customerId: string, wanted: WantedPayOut, within: Transaction) {
  const today = await businessDateOf(almanac, within);
  const customer = await lockedCustomer(customerId, within);
  const { currency } = wanted;
  const amount = BigInt(wanted.amount);
  const means: Means = wanted.to;
  await holdSubscriptions(almanac, customerId, within);
  const paid = means === 'gateway' ? await paymentFor(almanac, customerId, wanted, within) : null;
  const atHand = (await lockCredit(almanac, [customerId], within)).get(`${customerId} ${currency}`) ?? 0n;
  if (amount > atHand)
    throw new RefusedCommand(422, `At most ${sayAmount(atHand, currency)} of credit is at hand.`, '/amount');
  const effect: RefundEffect = {
    ...{ currency, amount: wanted.amount, invoice: null, creditNote: null, subscription: null },
    to: paid?.card ?? (means === 'gateway' ? '' : MEANS_NAMES[means]),
    credit: (atHand - amount).toString(),
    books: await sayEntries(almanac, [
      paidOut({ refundId: '0', amount, currency, on: today, at: placeOf(means) }),
    ]),
    ...{ id: null, state: null },
  };
  return { effect, paid, means, today, customer };
}

/** The payment that money goes back by, with enough left of it. */
async function paymentFor(
  almanac: Almanac,
  customerId: string,
  { attemptId, currency, amount }: WantedPayOut,
  within: Transaction,
): Promise<Refundable> {
  if (attemptId === undefined)
    throw new RefusedCommand(422, 'Choose the payment that it goes back by.', '/attemptId');
  const paid = await refundable(almanac, attemptId, within);
  if (paid?.customerId !== customerId || paid.currency !== currency)
    throw new RefusedCommand(422, 'There is no such payment of this customer.', '/attemptId');
  if (paid.means !== 'gateway' || paid.gatewayCharge === null)
    throw new RefusedCommand(422, 'It did not come by a card or an account: pay it by hand.', '/to');
  if (paid.disconnected)
    throw new RefusedCommand(
      409,
      'The gateway that took it is disconnected: connect it in Setup, or pay by hand.',
      '/to',
    );
  if (BigInt(amount) > BigInt(paid.left))
    throw new RefusedCommand(
      422,
      `At most ${sayAmount(BigInt(paid.left), currency)} of this payment can go back.`,
      '/amount',
    );
  return paid;
}
