import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { datedBy } from './alter.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import { lockedSubscription } from './lock.ts';
import { isOver } from './stand.ts';
import { Subscription } from './Subscription.ts';

/**
 * Sets how many days before each period a subscription is invoiced, whatever its rate says. What is issued stays as it is; what
 * has its day by that is issued with the next turn of the page.
 * @param days 0 to 90
 */
export function changeIssueBefore(almanac: Almanac, id: string, days: number): Promise<void> {
  return almanac.db.transaction(async (within) => {
    if (!(await Subscription.findByPk(id, { transaction: within })))
      throw new RefusedCommand(404, 'There is no such subscription.');
    const subscription = await lockedSubscription(id, within);
    if (isOver(subscription)) throw new RefusedCommand(422, 'This subscription is over.');
    if (subscription.invoicing === 'whole')
      throw new RefusedCommand(422, 'It is invoiced as a whole, on its first day.', '/days');
    const today = await businessDateOf(almanac, within);
    const { terms, issueBefore: before, startsOn } = subscription;
    const compiled = (await loadLaw(almanac, within)).compile(await lawFactsOf(almanac, id, within));
    const walk = subscription.walk ?? null;
    const { wakeOn } = datedBy({ startsOn, issueBefore: days }, { terms, walk }, compiled, today);
    await subscription.update({ issueBefore: days, wakeOn }, { transaction: within });
    const { name } = await Customer.findByPk(subscription.customerId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    await recordDone(
      almanac,
      {
        did: 'changed when a subscription is invoiced',
        subject: name,
        before: { days: before },
        after: { days },
      },
      within,
    );
  });
}
