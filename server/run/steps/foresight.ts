import { foreseeAnew } from '../../forecast/foresee.ts';
import { followLaw, LAW_TO_FOLLOW } from '../../forecast/lawChanges.ts';
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
    where foresee_on <= $businessDate and (held_on is null or held_on < $businessDate) order by id`,
  size: 500,
  subscriptionOf: itself,
  async together({ almanac }, ids) {
    await almanac.db.transaction((within) => foreseeAnew(almanac, ids, within));
    return [];
  },
  one: ({ almanac }, id) => almanac.db.transaction((within) => foreseeAnew(almanac, [id], within)),
};

/** Once a day is over, what was added to and taken from the sums of days is folded together. */
export const foldSums: Step = {
  name: 'sums of days',
  due: SUMS_TO_FOLD,
  size: 1,
  subscriptionOf: nobody,
  one: ({ almanac }) => foldDaySums(almanac),
};
