import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import type { Customer } from '../customers/Customer.ts';
import type { MethodKind } from '../customers/methodMessages.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { serves } from '../gateways/cardUse.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { RefusedCommand } from '../http/problem.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { optionsOf } from '../plans/plans.ts';
import type { Rate } from '../plans/Rate.ts';
import type { PaymentKind } from '../settings/messages.ts';
import type { acceptanceSchema } from '../subscriptions/messages.ts';

export type Acceptance = z.output<typeof acceptanceSchema>;

/**
 * How a subscription is paid: with a card or a bank account that is charged by itself or waits for its holder, or by invoice. A
 * trial may start without one where the rate says what becomes of it at its end; anything may where it is asked for.
 * @param terms what the rate comes to with what is agreed otherwise: it may have another trial, or none
 */
export function payingOf(rate: Rate, wanted: Acceptance, terms: object = rate.terms) {
  const { pays } = wanted;
  const { methods, withoutMethod } = optionsOf(rate);
  const accepts = (way: (typeof methods)[number]) => methods.includes(way);
  if (pays === 'invoice' && !accepts('invoice'))
    throw new RefusedCommand(422, 'This rate is not paid by invoice.', '/pays');
  if (pays === 'transfer' && !accepts('online transfer'))
    throw new RefusedCommand(422, 'This rate is not paid by online transfer.', '/pays');
  if (pays === 'bank' && !accepts('bank debit'))
    throw new RefusedCommand(422, 'This rate is not paid by bank debit.', '/pays');
  const byHand = pays === 'invoice' || pays === 'transfer';
  if (!byHand && pays !== 'bank' && !accepts('card') && !accepts('bank debit'))
    throw new RefusedCommand(422, 'This rate is paid by invoice.', '/pays');
  const given = givenMethod(wanted);
  if (given?.kind === 'card' && !accepts('card'))
    throw new RefusedCommand(422, 'This rate is not paid by card.', '/pays');
  if (given?.kind === 'bank account' && !accepts('bank debit'))
    throw new RefusedCommand(422, 'This rate is not paid by bank debit.', '/pays');
  const isGiven = given !== null;
  const isAsked = (pays === 'mail' || pays === 'link') && !isGiven;
  const waits = 'trial' in terms && withoutMethod !== 'needed' && !isGiven;
  if (byHand) return { collects: 'by hand' as const, needsCard: false, withoutMethod: null, isAsked: false };
  const without = waits ? withoutMethod : isAsked ? ('wait' as const) : null;
  return { collects: 'automatic' as const, needsCard: without === null, withoutMethod: without, isAsked };
}

/** The card or the bank account that is given with an enrolment, by its token; null where none is. */
export function givenMethod({
  cardToken,
  bankToken,
}: Acceptance): { readonly kind: MethodKind; readonly token: string; readonly at: string } | null {
  if (bankToken !== undefined) return { kind: 'bank account', token: bankToken, at: '/bankToken' };
  return cardToken === undefined ? null : { kind: 'card', token: cardToken, at: '/cardToken' };
}

/** By which of Setup's rules the due dates of an enrolment move to a day that is worked. */
export async function paymentKindOf(
  wanted: Acceptance,
  { customerId }: { readonly customerId: string },
  within: Transaction,
): Promise<PaymentKind> {
  if (wanted.pays === 'invoice' || wanted.pays === 'transfer') return 'by invoice';
  const given = givenMethod(wanted);
  const kind = given ? given.kind : (await keptMethod(customerId, wanted.methodId, within))?.kind;
  return kind === 'bank account' ? 'bank debit' : 'card';
}

/** What the card of an enrolment is for: the rate, and what the customer has already. */
export function cardGivenFor(rateId: string, { customer, cardRole, read, keptAt }: Acceptance) {
  const forOthers = 'id' in customer && cardRole !== 'own';
  return {
    keptAt,
    ...{ rateId, forAll: true, customerId: forOthers ? customer.id : undefined },
    channel: read ? ('reader' as const) : ('staff' as const),
  };
}

/** The method on file that is named, or the one in use; null where there is none. */
function keptMethod(
  customerId: string,
  methodId: string | undefined,
  within: Transaction,
): Promise<PaymentMethod | null> {
  return methodId === undefined
    ? methodInUse({ customerId, ownMethodId: null }, within)
    : PaymentMethod.findOne({ where: { id: methodId, customerId }, transaction: within });
}

/** The card on file that a rate is charged to, the one that is named or the one in use; a refusal where it cannot be. */
export async function requireKeptCard(
  customer: Customer,
  { rate, on, methodId }: { readonly rate: Rate; readonly on: string; readonly methodId: string | undefined },
  within: Transaction,
): Promise<PaymentMethod> {
  const kept = await keptMethod(customer.id, methodId, within);
  if (kept?.state !== 'usable')
    throw new RefusedCommand(422, 'There is no card to charge: enter one.', '/cardToken');
  if (hasExpired(kept, on))
    throw new RefusedCommand(422, 'The card on file has expired: enter another one.', '/cardToken');
  const account = await GatewayAccount.findByPk(kept.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const { currency } = rate.terms;
  const taken = kept.kind === 'card' ? 'card' : 'bank debit';
  if (!optionsOf(rate).methods.includes(taken))
    throw new RefusedCommand(
      422,
      taken === 'card'
        ? 'This rate is not paid by card: enter a bank account.'
        : 'This rate is not paid by bank debit: enter a card.',
      '/cardToken',
    );
  if (!serves(account, { currency, gateways: optionsOf(rate).gateways }))
    throw new RefusedCommand(
      422,
      `The card on file is kept at ${account.name}, which cannot be charged for this rate: enter a card anew.`,
      '/cardToken',
    );
  return kept;
}

/** Whether a customer has a card that can be charged on a day. */
export async function hasUsable(customer: Customer, on: string, within: Transaction): Promise<boolean> {
  const kept = await methodInUse({ customerId: customer.id, ownMethodId: null }, within);
  return kept?.state === 'usable' && !hasExpired(kept, on);
}
