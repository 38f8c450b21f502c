import type { Transaction } from 'sequelize';
import { lockedCustomer, lockedSubscription } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { Climbing } from './climbing.ts';
import { Ladder } from './Ladder.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/**
 * A case with what it is climbed by, locked in the order in which everybody locks: the customer, the subscription, the case. It
 * may be closed; null: there is none.
 */
export async function lockCase(
  caseId: string,
  within: Transaction,
): Promise<Omit<Climbing, 'businessDate'> | null> {
  const found = await RecoveryCase.findByPk(caseId, { transaction: within });
  if (!found) return null;
  const asked = { transaction: within, rejectOnEmpty: true } as const;
  const { customerId } = await Subscription.findByPk(found.subscriptionId, asked);
  await lockedCustomer(customerId, within);
  const subscription = await lockedSubscription(found.subscriptionId, within);
  const opened = await found.reload({ transaction: within, lock: within.LOCK.UPDATE });
  return { opened, subscription, ladder: await Ladder.findByPk(opened.ladderId, asked) };
}
