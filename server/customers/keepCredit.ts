import type { Transaction } from 'sequelize';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { CustomerCredit } from './CustomerCredit.ts';

/** Credit at hand of a subscription, in minor units of its currency. */
export function creditAtHand({ walk }: Pick<Subscription, 'walk'>): bigint {
  return BigInt(walk?.credit ?? 0);
}

/**
 * Credit that a subscription which is over has not used up goes to its customer, once. Nothing more is to be invoiced
 * of it: what was left stays what it is.
 */
export async function keepCredit(
  subscription: Subscription,
  keptOn: string,
  within: Transaction,
): Promise<void> {
  const amount = creditAtHand(subscription);
  if (amount <= 0n) return;
  const { id, customerId, terms } = subscription;
  await CustomerCredit.bulkCreate(
    [{ customerId, subscriptionId: id, currency: terms.currency, amount, keptOn }],
    { ignoreDuplicates: true, transaction: within },
  );
}
