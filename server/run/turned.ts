import type { Almanac } from '../almanac.ts';
import type { TurnedPages } from './messages.ts';

/** What happened on the days from one date to before another: what a person wants to know after pages were turned. */
export async function readTurned(almanac: Almanac, from: string, to: string): Promise<TurnedPages> {
  const between = { from, to };
  const [sums, counts] = await Promise.all([
    almanac.db.rows<TurnedPages['sums'][number]>(
      `select currency, sum(amount) filter (where kind = 'in')::text as collected,
         count(*) filter (where kind = 'in')::int as "inCount",
         coalesce(sum(amount) filter (where kind = 'out'), 0)::text as declined,
         count(*) filter (where kind = 'out')::int as "outCount"
       from (
         select m.currency, m.amount, 'in' as kind from payments m where m.paid_on >= $from and m.paid_on < $to
         union all
         select i.currency, a.amount, 'out' from attempts a join invoices i on i.id = a.invoice_id
         where a.attempted_on >= $from and a.attempted_on < $to and a.state = 'declined') moved
       group by currency order by currency`,
      between,
    ),
    almanac.db.row<Omit<TurnedPages, 'from' | 'to' | 'sums'>>(
      `select
         (select count(*)::int from subscriptions where starts_on >= $from and starts_on < $to and state <> 'scheduled') as started,
         (select count(*)::int from subscriptions where closed_on >= $from and closed_on < $to and state = 'ended') as ended,
         (select count(*)::int from subscriptions where closed_on >= $from and closed_on < $to and state = 'lapsed') as lapsed,
         (select count(*)::int from recovery_cases where closed_on >= $from and closed_on < $to and state = 'recovered') as recovered,
         (select count(*)::int from letters where written_on >= $from and written_on < $to) as letters,
         (select count(*)::int from needs where arose_on >= $from and arose_on < $to) as needs`,
      between,
    ),
  ]);
  const none = { started: 0, ended: 0, lapsed: 0, recovered: 0, letters: 0, needs: 0 };
  return {
    from,
    to,
    sums: sums.map((sum) => ({ ...sum, collected: sum.collected ?? '0' })),
    ...(counts ?? none),
  };
}
