import { askGateway } from '../../payments/askGateway.ts';
import { Attempt } from '../../payments/Attempt.ts';
import type { Step } from '../step.ts';
import { ofAttempt } from './ofSubscription.ts';

/**
 * Charges whose outcome is not known, and those that wait for their account or their cardholder, are asked about; what was
 * submitted to the banks, from the day on which they answer.
 */
export const askWhatIsUnderWay: Step = {
  name: 'charges under way',
  due: `select id::text as item from attempts
    where state = 'under way' and (expected_on is null or expected_on <= $businessDate or waits_for is not null) order by id`,
  bound: ({ businessDate }) => ({ businessDate }),
  size: 50,
  lanes: 8,
  subscriptionOf: ofAttempt,
  async one({ almanac, businessDate }, id) {
    const attempt = await Attempt.findByPk(id, { rejectOnEmpty: true });
    if (attempt.state === 'under way') await askGateway(almanac, attempt, businessDate);
  },
};
