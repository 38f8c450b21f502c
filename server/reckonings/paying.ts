import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import type { Customer } from '../customers/Customer.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { serves } from '../gateways/cardUse.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { RefusedCommand } from '../http/problem.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { optionsOf } from '../plans/plans.ts';
import type { Rate } from '../plans/Rate.ts';
import type { acceptanceSchema } from '../subscriptions/messages.ts';

export type Acceptance = z.output<typeof acceptanceSchema>;

/**
 * How a subscription is paid: with a card that is charged by itself or waits for its holder, or by invoice. A trial
 * may start without a card where the rate says what becomes of it at its end; anything may where the card is asked for.
 */
export function payingOf(rate: Rate, { pays, cardToken }: Acceptance) {
  const { methods, withoutMethod } = optionsOf(rate);
  if (!methods.includes(pays === 'invoice' ? 'invoice' : 'card')) {
    const says = pays === 'invoice' ? 'This rate is not paid by invoice.' : 'This rate is paid by invoice.';
    throw new RefusedCommand(422, says, '/pays');
  }
  const isAsked = (pays === 'mail' || pays === 'link') && cardToken === undefined;
  const waits = 'trial' in rate.terms && withoutMethod !== 'needed' && cardToken === undefined;
  if (pays === 'invoice')
    return { collects: 'by hand' as const, needsCard: false, withoutMethod: null, isAsked: false };
  const without = waits ? withoutMethod : isAsked ? ('wait' as const) : null;
  return { collects: 'automatic' as const, needsCard: without === null, withoutMethod: without, isAsked };
}

/** What the card of an enrolment is for: the rate, and what the customer has already. */
export function cardGivenFor(rateId: string, { customer, cardRole, read }: Acceptance) {
  const forOthers = 'id' in customer && cardRole !== 'own';
  return {
    ...{ rateId, forAll: true, customerId: forOthers ? customer.id : undefined },
    channel: read ? ('reader' as const) : ('staff' as const),
  };
}

/** The card on file that a rate is charged to, the one that is named or the one in use; a refusal where it cannot be. */
export async function requireKeptCard(
  customer: Customer,
  { rate, on, methodId }: { readonly rate: Rate; readonly on: string; readonly methodId: string | undefined },
  within: Transaction,
): Promise<PaymentMethod> {
  const kept =
    methodId === undefined
      ? await methodInUse({ customerId: customer.id, ownMethodId: null }, within)
      : await PaymentMethod.findOne({
          where: { id: methodId, customerId: customer.id },
          transaction: within,
        });
  if (kept?.state !== 'usable')
    throw new RefusedCommand(422, 'There is no card to charge: enter one.', '/cardToken');
  if (hasExpired(kept, on))
    throw new RefusedCommand(422, 'The card on file has expired: enter another one.', '/cardToken');
  const account = await GatewayAccount.findByPk(kept.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const { currency } = rate.terms;
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
