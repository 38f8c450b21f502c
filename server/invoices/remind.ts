import { money, onDate } from '../../core/letters/said.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter } from '../customers/link.ts';
import { saidPeriod, writeAbout } from '../notices/occasions.ts';
import { isCollected } from '../recovery/suspensions.sql.ts';
import { USUAL_REMINDER_DAYS } from '../settings/messages.ts';
import { lockedInvoice } from './lockInvoice.ts';

/**
 * Invoices that are paid by hand and fall due in a few days, of which nobody was reminded yet: not on the day of their issue, when
 * the invoice itself was sent. What is late is its ladder's affair; later parts are told of by themselves. Null as the number of
 * days: nobody is reminded.
 */
export const INVOICES_TO_REMIND = `
  select i.id::text as item from invoices i join subscriptions s on s.id = i.subscription_id
  where i.state in ('issued', 'part-paid') and i.case_id is null and s.collects = 'by hand' and s.state <> 'lapsed'
    and i.due_on > $businessDate and i.issued_on < $businessDate
    and i.due_on <= $businessDate::date + coalesce((
      select case when value ? 'remindDaysBefore' then coalesce((value ->> 'remindDaysBefore')::int, -1) end
      from settings where section = 'invoicing'), ${USUAL_REMINDER_DAYS})
    and not exists (select from dues d where d.invoice_id = i.id) and ${isCollected('i.customer_id')}
    and not exists (select from customers c where c.id = i.customer_id and 'invoice reminder' = any(c.stopped_letters))
    and not exists (select from letters l where l.once_key = 'remind:' || i.id)
  order by i.id`;

/** Reminds of an invoice that is to be paid by hand soon, if it still is. */
export function remindOfInvoice(almanac: Almanac, id: string, businessDate: string): Promise<unknown> {
  return almanac.db.transaction(async (within) => {
    const { invoice, subscription } = await lockedInvoice(id, within);
    if (!['issued', 'part-paid'].includes(invoice.state) || invoice.caseId !== null) return;
    const number = `${invoice.prefix}${invoice.number}`;
    return writeAbout(
      almanac,
      subscription,
      {
        ...{ event: 'invoice reminder', onceKey: `remind:${id}`, reason: `Invoice ${number} falls due` },
        linkId: (await linkForLetter(subscription, businessDate, within)).id,
        invoiceId: id,
        says: {
          ...{ invoice: number, amount: money(invoice.owed, invoice.currency) },
          ...{ date: onDate(invoice.dueOn), period: saidPeriod(invoice) },
        },
      },
      businessDate,
      within,
    );
  });
}
