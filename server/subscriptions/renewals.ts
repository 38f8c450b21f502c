import { money, onDate, sentence } from '../../core/letters/said.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter } from '../customers/link.ts';
import { saidCurrentCard, writeAbout } from '../notices/occasions.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import { Subscription } from './Subscription.ts';

/**
 * The subscriptions of rates that give notice of renewals and may renew within that time: subscription and days, `7:30`.
 * It is given before the invoice of the renewal is issued. Those that were told of the day on which they wake are left out.
 */
export const RENEWALS_TO_TELL = `
  select s.id || ':' || greatest((v.options ->> 'noticeDays')::int, s.issue_before + 1) as item
  from subscriptions s join rate_versions v on v.rate_id = s.rate_id and v.version = s.rate_version
  where s.state in ('active', 'overdue') and (v.options ->> 'noticeDays') is not null
    and s.wake_on <= $businessDate::date + greatest((v.options ->> 'noticeDays')::int - s.issue_before, 1)
    and not exists (select 1 from letters l where l.once_key = 'renewal:' || s.id || ':' || s.wake_on)
  order by s.id`;

/** Writes of the renewal that comes within so many days, once for each. */
export function tellOfRenewal(almanac: Almanac, item: string, businessDate: string): Promise<void> {
  const [id = '', days = '0'] = item.split(':');
  return almanac.db.transaction(async (within) => {
    const subscription = await Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
    const law = await loadLaw(almanac, within);
    const terms = law.compile(await lawFactsOf(almanac, id, within));
    const next = new PaymentWalk(terms, subscription.walk ?? undefined).next();
    if (next === null || next.kind !== 'period' || next.due === 0n) return;
    if (next.from > toDay(businessDate) + Number(days)) return;
    const from = formatDay(next.from);
    const key = `renewal:${id}:${from}`;
    if (await almanac.db.row('select 1 from letters where once_key = $key', { key }, within)) return;
    const date = onDate(formatDay(next.dueOn));
    const how =
      subscription.collects === 'by hand'
        ? sentence('invoice follows', { date })
        : sentence('is charged on', {
            charged: { ...(await saidCurrentCard(subscription, within)), possessive: true },
            date,
          });
    await writeAbout(
      almanac,
      subscription,
      {
        event: 'renewal coming',
        onceKey: key,
        reason: `It renews on ${sayDate(from)}`,
        linkId: (await linkForLetter(subscription, businessDate, within)).id,
        says: { date: onDate(from), amount: money(next.due, subscription.terms.currency), next: how },
      },
      businessDate,
      within,
    );
  });
}
