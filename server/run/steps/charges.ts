import { formatDay, toDay } from '../../../core/dates/day.ts';
import { BY_HAND_GRACE_DAYS } from '../../../core/recovery/ladder.ts';
import { isCollected } from '../../recovery/suspensions.sql.ts';
import { isOfSubscription } from '../../customers/inTurn.ts';
import { chargeInvoices } from '../../payments/chargeInvoices.ts';
import { collectInvoice } from '../../payments/collect.ts';
import type { Step } from '../step.ts';
import { ofInvoice } from './ofSubscription.ts';

/**
 * Charges what is due and was never tried (of who was enrolled without a method, once there is one); what was tried and declined is its case's affair. What is paid by hand is
 * not charged: some days after it was due, a case is opened for it. An item is an invoice and which of its dues has come.
 */
export const chargeWhatIsDue: Step = {
  name: 'charges',
  due: `
    select i.id || ':' || min(d.place) as item
    from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
    where d.due_on <= $businessDate and s.state <> 'lapsed' and ${isCollected('i.customer_id')}
      and (s.collects = 'automatic' or d.due_on < $patientUntil)
      and (s.without_method is distinct from 'wait' or exists (
             select from payment_methods m where ${isOfSubscription('m', 's')} and m.state = 'usable'
               and m.expires_on >= $businessDate::date))
      and (i.case_id is null or (d.of_several and exists (
             select 1 from recovery_cases k where k.id = i.case_id and k.state = 'recovered')))
      and not exists (select 1 from attempts a
                      where a.invoice_id = i.id and a.means = 'gateway' and (a.reason <> 'by staff' or a.state = 'under way')
                        and (not d.of_several or a.attempted_on >= d.due_on)
                        and a.state <> 'withdrawn'
                        and (a.state <> 'refused' or exists (
                               select 1 from needs n where n.once_key = 'refused:' || a.id and n.settled_on is null)))
    group by i.id order by min(d.due_on), i.id`,
  bound: ({ businessDate }) => ({ patientUntil: formatDay(toDay(businessDate) - BY_HAND_GRACE_DAYS) }),
  size: 500,
  lanes: 4,
  subscriptionOf: ofInvoice,
  async together({ almanac, businessDate, signal }, items) {
    const plain = items.filter((item) => item.endsWith(':1')).map((item) => item.split(':')[0] ?? '');
    const left = new Set(await chargeInvoices(almanac, plain, businessDate, signal));
    return items.filter((item) => !item.endsWith(':1') || left.has(item.split(':')[0] ?? ''));
  },
  one({ almanac, businessDate }, item) {
    const [invoiceId = '', place = '1'] = item.split(':');
    return collectInvoice(almanac, {
      invoiceId,
      reason: 'renewal',
      channel: 'by itself',
      businessDate,
      occasion: place === '1' ? 'renewal' : `due ${place}`,
    });
  },
};
