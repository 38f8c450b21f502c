import { formatDay, toDay } from '../../../core/dates/day.ts';
import {
  LONGEST_NOTICE_DAYS,
  settleTrial,
  tellOfTrial,
  TRIALS_TO_TELL,
  TRIALS_WITHOUT_CARD,
  trialsToTell,
} from '../../subscriptions/trials.ts';
import type { Step } from '../step.ts';
import { itself } from './ofSubscription.ts';

/** What becomes of trials that end without a card: it is settled before the first payment after them. */
export const settleTrials: Step = {
  name: 'trials that end without a card',
  due: TRIALS_WITHOUT_CARD,
  size: 50,
  subscriptionOf: itself,
  one: ({ almanac, businessDate }, id) => settleTrial(almanac, id, businessDate),
};

/** Writes of trials whose end is as near as their rate, and the country of their customer, ask to be told of. */
export const tellOfTrials: Step = {
  name: 'letters of trials that end',
  due: TRIALS_TO_TELL,
  bound: ({ businessDate }) => ({ by: formatDay(toDay(businessDate) + LONGEST_NOTICE_DAYS) }),
  size: 500,
  subscriptionOf: itself,
  // Which of them are near enough is looked at for all together; then they are written to one by one.
  together: ({ almanac, businessDate }, ids) => trialsToTell(almanac, ids, businessDate),
  one: ({ almanac, businessDate }, id) => tellOfTrial(almanac, id, businessDate),
};
