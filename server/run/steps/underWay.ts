import { askGateway } from '../../payments/askGateway.ts';
import { Attempt } from '../../payments/Attempt.ts';
import type { Step } from '../step.ts';

/** Charges whose outcome is not known, and those that wait for their account, are asked about. */
export const askWhatIsUnderWay: Step = {
  name: 'charges under way',
  due: `select id::text as item from attempts where state = 'under way' order by id`,
  size: 50,
  lanes: 8,
  async subscriptionOf(almanac, id) {
    const row = await almanac.db.row<{ id: string }>(
      'select i.subscription_id::text as id from attempts a join invoices i on i.id = a.invoice_id where a.id = $id',
      { id },
    );
    return row?.id ?? null;
  },
  async one({ almanac, businessDate }, id) {
    const attempt = await Attempt.findByPk(id, { rejectOnEmpty: true });
    if (attempt.state === 'under way') await askGateway(almanac, attempt, businessDate);
  },
};
