import { askForRefund } from '../../refunds/askForRefund.ts';
import type { Step } from '../step.ts';

/** Refunds whose outcome is not known, and those that wait for their account; what the banks have, from the day on which they answer. */
export const askForRefundsUnderWay: Step = {
  name: 'refunds under way',
  due: `select id::text as item from refunds
    where state = 'under way' and (expected_on is null or expected_on <= $businessDate) order by id`,
  bound: ({ businessDate }) => ({ businessDate }),
  size: 50,
  lanes: 4,
  holdsNobody: true,
  async subscriptionOf(almanac, item) {
    const row = await almanac.db.row<{ id: string }>(
      `select i.subscription_id::text as id from refunds f join attempts a on a.id = f.attempt_id
       join invoices i on i.id = a.invoice_id where f.id = $item`,
      { item },
    );
    return row?.id ?? null;
  },
  one: ({ almanac, businessDate }, id) => askForRefund(almanac, id, businessDate),
};
