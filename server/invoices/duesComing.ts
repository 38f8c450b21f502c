import { money, onDate, sentence } from '../../core/letters/said.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter } from '../customers/link.ts';
import { saidCurrentCard, writeAbout } from '../notices/occasions.ts';
import { Subscription } from '../subscriptions/Subscription.ts';

/** How many days before a later part of an invoice is due its customer is asked to pay it by hand, where the rate says nothing. */
const DAYS_BEFORE = 7;

interface ComingDue {
  readonly invoice_id: string;
  readonly invoice: string;
  readonly place: number;
  readonly parts: number;
  readonly due_on: string;
  readonly owed: string;
  readonly currency: string;
  readonly subscription_id: string;
}

/**
 * The later dues of invoices for a whole term of which it is time to write: those paid by hand some days before, those
 * charged by themselves where the rate gives notice. Of the first the invoice itself told. An item is an invoice and the
 * place of the due, `12:2`.
 */
export const DUES_TO_TELL = `
  select i.id || ':' || d.place as item
  from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
  join rate_versions v on v.rate_id = s.rate_id and v.version = s.rate_version
  where d.of_several and d.place > 1 and d.due_on > $businessDate and s.state in ('active', 'overdue')
    and d.due_on <= $businessDate::date + coalesce((v.options ->> 'noticeDays')::int,
          case s.collects when 'by hand' then ${DAYS_BEFORE} end)
    and not exists (select 1 from letters l where l.once_key = 'due:' || i.id || ':' || d.place)
  order by i.id, d.place`;

/** Writes of a part of an invoice that is due soon: how much, by when, and whether it is charged by itself. */
export function tellOfDue(almanac: Almanac, item: string, businessDate: string): Promise<unknown> {
  const [invoiceId = '', duePlace = ''] = item.split(':');
  return almanac.db.transaction(async (within) => {
    const due = await almanac.db.row<ComingDue>(
      `select i.id::text as invoice_id, i.prefix || i.number as invoice, d.place, d.due_on, d.owed::text, i.currency,
         i.subscription_id::text, (select count(*)::int from dues a where a.invoice_id = i.id) as parts
       from open_dues d join invoices i on i.id = d.invoice_id where i.id = $invoiceId and d.place = $duePlace`,
      { invoiceId, duePlace },
      within,
    );
    if (!due) return;
    const { invoice_id, invoice, place, parts, currency, owed } = due;
    const subscription = await Subscription.findByPk(due.subscription_id, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const next =
      subscription.collects === 'by hand'
        ? sentence('pay on own page', {})
        : sentence('charged that day', {
            charged: { ...(await saidCurrentCard(subscription, within)), possessive: true },
          });
    return writeAbout(
      almanac,
      subscription,
      {
        event: 'part due',
        onceKey: `due:${invoice_id}:${place}`,
        reason: `Part ${place} of invoice ${invoice}`,
        linkId: (await linkForLetter(subscription, businessDate, within)).id,
        says: {
          invoice,
          date: onDate(due.due_on),
          amount: money(BigInt(owed), currency),
          period: sentence('part of', { place: String(place), parts: String(parts) }),
          next,
        },
      },
      businessDate,
      within,
    );
  });
}
