import { DIGESTS_DUE, sendDigest } from '../../staff/digests.ts';
import { endSubscription } from '../../subscriptions/end.ts';
import type { Step } from '../step.ts';
import { itself, nobody } from './ofSubscription.ts';

/** Ends subscriptions whose dates have come to their end. */
export const endSubscriptions: Step = {
  name: 'endings',
  due: `
    select id::text as item from subscriptions
    where ends_on <= $businessDate and state not in ('lapsed', 'ended') order by id`,
  size: 50,
  subscriptionOf: itself,
  one: ({ almanac, businessDate }, id) => endSubscription(almanac, id, businessDate),
};

/** Once a day is over, its letter to staff is written. */
export const writeDigests: Step = {
  name: 'letters of the day to staff',
  due: DIGESTS_DUE,
  size: 10,
  subscriptionOf: nobody,
  one: ({ almanac, businessDate }, id) => sendDigest(almanac, id, businessDate),
};
