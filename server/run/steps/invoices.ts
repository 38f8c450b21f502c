import { invoiceDue } from '../../subscriptions/invoiceDue.ts';
import type { Step } from '../step.ts';
import { itself } from './ofSubscription.ts';

/**
 * Subscriptions are brought up to the day: they start, rest and go on, and what has come due of them is invoiced. In the
 * order of enrolment, so that invoices have the same numbers whoever does it.
 */
export const issueInvoices: Step = {
  name: 'invoices to issue',
  due: `
    select id::text as item from subscriptions
    where wake_on <= $businessDate and state <> 'lapsed' and (held_on is null or held_on < $businessDate)
    order by id`,
  size: 500,
  subscriptionOf: itself,
  async together({ almanac, businessDate }, ids, { inOrder }) {
    await invoiceDue(almanac, ids, businessDate, inOrder);
    return [];
  },
  one: ({ almanac, businessDate }, id) => invoiceDue(almanac, [id], businessDate),
};
