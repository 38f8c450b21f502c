import { climbCase } from '../../recovery/climb.ts';
import { isCollected } from '../../recovery/suspensions.sql.ts';
import type { Step } from '../step.ts';

/**
 * Climbs the rungs of open cases that have come, the cases of one customer one after the other: nobody gets two notices
 * on one day, and which of two it is does not depend on who works.
 */
export const climbLadders: Step = {
  name: 'rungs of ladders',
  due: `
    select string_agg(k.id::text, ',' order by k.id) as item
    from recovery_cases k join subscriptions s on s.id = k.subscription_id
    where k.state = 'open' and ${isCollected('s.customer_id')} and (k.aside_until is null or k.aside_until <= $businessDate)
      and (k.next_rung_on <= $businessDate or (k.retry_on <= $businessDate and (k.retry_at is null or k.retry_at <= $now)))
    group by s.customer_id order by min(k.id)`,
  bound: ({ now }) => ({ now }),
  size: 20,
  lanes: 4,
  async subscriptionOf(almanac, item) {
    const row = await almanac.db.row<{ id: string }>(
      'select subscription_id::text as id from recovery_cases where id = $id',
      { id: item.split(',')[0] ?? '' },
    );
    return row?.id ?? null;
  },
  async one({ almanac, businessDate, now }, item) {
    for (const id of item.split(',')) await climbCase(almanac, id, businessDate, now);
  },
};
