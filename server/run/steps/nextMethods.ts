import { Attempt } from '../../payments/Attempt.ts';
import { collectInvoice } from '../../payments/collect.ts';
import { isCollected } from '../../recovery/suspensions.sql.ts';
import { occasionOf } from '../../payments/occasion.ts';
import type { Step } from '../step.ts';
import { ofAttempt } from './ofSubscription.ts';

/** What was declined while the customer has another method is tried with that one: the same attempt at it, in its turn. */
export const tryNextMethods: Step = {
  name: 'next methods',
  due: `select id::text as item from attempts where goes_on and ${isCollected('customer_id')} order by id`,
  size: 50,
  lanes: 8,
  subscriptionOf: ofAttempt,
  async one({ almanac, businessDate }, id) {
    const attempt = await Attempt.findByPk(id, { rejectOnEmpty: true });
    if (!attempt.goesOn) return;
    const { invoiceId, reason, caseId, rung, leg } = attempt;
    await collectInvoice(almanac, {
      ...{ invoiceId, reason, businessDate },
      channel: 'by itself',
      occasion: occasionOf(attempt).occasion,
      ...(caseId && typeof rung === 'number' ? { rung: { caseId, rung, leg } } : {}),
    });
  },
};
