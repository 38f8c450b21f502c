import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { CustomerCredit } from './CustomerCredit.ts';
import type { CreditView } from './messages.ts';

/** Credit at hand of a subscription, in minor units of its currency. */
export function creditAtHand({ walk }: Pick<Subscription, 'walk'>): bigint {
  return BigInt(walk?.credit ?? 0);
}

/**
 * Credit that a subscription which is over has not used up goes to its customer, once. Nothing more is to be invoiced
 * of it: what was left stays what it is.
 */
export async function keepCredit(
  subscription: Pick<Subscription, 'id' | 'customerId' | 'terms' | 'walk'>,
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

/** What subscriptions that are over left to a customer's credit, the oldest first. */
export function creditsOf(almanac: Almanac, customerId: string): Promise<CreditView[]> {
  return almanac.db.rows<CreditView>(
    `select k.subscription_id::text as "subscriptionId", p.name as plan, k.currency, k.amount::text as amount,
       k.kept_on as "keptOn"
     from customer_credits k join subscriptions s on s.id = k.subscription_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id where k.customer_id = $customerId order by k.id`,
    { customerId },
  );
}
