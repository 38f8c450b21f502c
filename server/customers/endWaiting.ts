import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { settleNeeds } from '../run/needs.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { onceInVain } from './askForMethod.sql.ts';
import { Customer } from './Customer.ts';

/** A customer has given a method: whatever waited for one is charged like any other, and nobody is reminded. */
export async function endWaiting(
  almanac: Pick<Almanac, 'db'>,
  customerId: string,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const { methodAskedOn } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
  await Subscription.update(
    { withoutMethod: null },
    { where: { customerId, withoutMethod: 'wait' }, transaction: within },
  );
  if (methodAskedOn === null) return;
  await Customer.update({ methodAskedOn: null }, { where: { id: customerId }, transaction: within });
  await settleNeeds(almanac, within, onceInVain(customerId), businessDate);
}
