import { formatDay, toDay } from '../../../core/dates/day.ts';
import { isOurTrouble } from '../../db/trouble.ts';
import { foreseeAnew } from '../../forecast/foresee.ts';
import { followLaw, LAW_TO_FOLLOW } from '../../forecast/lawChanges.ts';
import { putOff } from '../../forecast/foresight.sql.ts';
import { foldDaySums, SUMS_TO_FOLD } from '../../forecast/daySums.sql.ts';
import type { Step } from '../step.ts';
import { itself, nobody } from './ofSubscription.ts';

/** What is stored ahead of all subscriptions follows a law that has changed. */
export const foreseeByNewLaw: Step = {
  name: 'foresight by a changed law',
  due: LAW_TO_FOLLOW,
  size: 1,
  subscriptionOf: nobody,
  one: ({ almanac, signal }) => followLaw(almanac, signal),
};

/** Subscriptions are foreseen anew where what is stored of them does not reach far enough any more. */
export const foreseeFurther: Step = {
  name: 'foresight',
  due: `
    select id::text as item from subscriptions
    where foresee_on <= $businessDate order by id`,
  size: 500,
  // What is only shown never keeps anybody from being invoiced.
  holdsNobody: true,
  subscriptionOf: itself,
  async together({ almanac }, ids) {
    await almanac.db.transaction((within) => foreseeAnew(almanac, ids, within));
    return [];
  },
  async one({ almanac, businessDate }, id) {
    try {
      await almanac.db.transaction((within) => foreseeAnew(almanac, [id], within));
    } catch (error) {
      // It is looked at again on the next day, not every minute.
      if (!isOurTrouble(error)) await putOff(almanac, id, formatDay(toDay(businessDate) + 1));
      throw error;
    }
  },
};

/** Once a day is over, what was added to and taken from the sums of days is folded together. */
export const foldSums: Step = {
  name: 'sums of days',
  due: SUMS_TO_FOLD,
  size: 1,
  subscriptionOf: nobody,
  one: ({ almanac }) => foldDaySums(almanac),
};
