import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { plannedPayments } from './forecast.ts';
import { MOST_RAIL_DAYS, type DaySheet, type RailDay, type SheetMovement } from './messages.ts';

const MOVEMENT = `s.id::text as "subscriptionId", c.name as customer, p.name as plan, i.prefix || i.number as invoice, i.currency`;
const OF_INVOICE = `join subscriptions s on s.id = i.subscription_id join customers c on c.id = i.customer_id
  join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id`;

/** The sheet of one business day. */
export async function readDaySheet(almanac: Almanac, date: string): Promise<DaySheet> {
  const { db } = almanac;
  const today = await businessDateOf(almanac);
  const tomorrow = formatDay(toDay(date) + 1);
  const [collected, declined, needs, happened, day, planned] = await Promise.all([
    db.rows<SheetMovement>(
      `select ${MOVEMENT}, m.amount::text as amount from payments m join invoices i on i.id = m.invoice_id ${OF_INVOICE}
       where m.paid_on = $date order by c.name, m.id`,
      { date },
    ),
    db.rows<
      SheetMovement & { code: string; case_state: string | null; next_rung_on: string | null; wrote: boolean }
    >(
      `select ${MOVEMENT}, a.amount::text as amount, a.response_code as code, k.state as case_state, k.next_rung_on,
         exists (select 1 from letters l where l.case_id = k.id and l.written_on = $date) as wrote
       from attempts a join invoices i on i.id = a.invoice_id ${OF_INVOICE}
       left join recovery_cases k on k.id = i.case_id
       where a.attempted_on = $date and a.state = 'declined' order by c.name, a.id`,
      { date },
    ),
    db.rows<DaySheet['needs'][number]>(
      // A past day shows what arose on it and what became of that, the business day all that is open; a day to come has none.
      `select n.id, n.kind, n.says, n.arose_on as arose, n.settled_on as "settledOn", c.name as customer, c.id::text as "customerId",
         n.subscription_id::text as "subscriptionId"
       from needs n left join subscriptions s on s.id = n.subscription_id
       left join customers c on c.id = coalesce(n.customer_id, s.customer_id)
       where case when $date::date < $today::date then n.arose_on = $date::date
                  else $date::date = $today::date and n.settled_on is null and n.arose_on > $date::date - 60 end
       order by n.arose_on desc, n.id`,
      { date, today },
    ),
    db.rows<DaySheet['happened'][number]>(
      `select s.id::text as "subscriptionId", c.name as customer, p.name as plan, h.says
       from (
         select id, 'started' as says from subscriptions where starts_on = $date and state <> 'scheduled'
         union all select id, 'trial ended' from subscriptions where trial_ends_on = $date and starts_on < $date
         union all select id, case state when 'ended' then 'ended: ' || ended_why else state end from subscriptions where closed_on = $date
         union all select subscription_id, 'recovered' from recovery_cases where closed_on = $date and state = 'recovered'
       ) h join subscriptions s on s.id = h.id join customers c on c.id = s.customer_id
       join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id order by h.says, c.name`,
      { date },
    ),
    db.row<{ finished: boolean }>(
      'select finished_at is not null as finished from days where business_date = $date',
      { date },
    ),
    date >= today ? plannedPayments(almanac, date, tomorrow) : Promise.resolve([]),
  ]);
  return {
    date,
    isBusinessDay: date === today,
    finished: day?.finished ?? false,
    collected,
    failed: declined.map(({ code, case_state, next_rung_on, wrote, ...movement }) => ({
      ...movement,
      says: `Declined: ${meaningOf(code).says}.`,
      next: sayNext(case_state, next_rung_on, wrote),
    })),
    planned: planned.filter((payment) => payment.date === date),
    tomorrow: { date: tomorrow, payments: planned.filter((payment) => payment.date === tomorrow) },
    needs,
    happened,
  };
}

function sayNext(state: string | null, nextRungOn: string | null, wrote: boolean): string {
  const letter = wrote ? ' We wrote to the customer that day.' : '';
  if (state === 'recovered') return `Paid since then.${letter}`;
  if (state === 'given up') return `All retries failed; given up.${letter}`;
  return nextRungOn ? `Next step on ${sayDate(nextRungOn)}.${letter}` : letter.trim();
}

/** The days of the rail between two dates, inclusive. */
export async function readRail(almanac: Almanac, from: string, to: string): Promise<RailDay[]> {
  const today = await businessDateOf(almanac);
  const first = toDay(from);
  const last = Math.max(first, Math.min(toDay(to), first + MOST_RAIL_DAYS - 1));
  const until = formatDay(last);
  const [moved, planned] = await Promise.all([
    almanac.db.rows<{ date: string; currency: string; collected: number; declined: number; sum: string }>(
      `select a.attempted_on as date, i.currency,
         count(*) filter (where a.state = 'collected')::int as collected,
         count(*) filter (where a.state = 'declined')::int as declined,
         coalesce(sum(a.amount) filter (where a.state = 'collected'), 0)::text as sum
       from attempts a join invoices i on i.id = a.invoice_id
       where a.attempted_on between $from and $until group by 1, 2`,
      { from, until },
    ),
    until >= today ? plannedPayments(almanac, from < today ? today : from, until) : Promise.resolve([]),
  ]);
  return Array.from({ length: last - first + 1 }, (_, i) => {
    const date = formatDay(first + i);
    const rows = moved.filter((row) => row.date === date);
    const ahead = planned.filter((payment) => payment.date === date);
    const currencies = [...new Set([...rows, ...ahead].map(({ currency }) => currency))].sort();
    return {
      date,
      collected: rows.reduce((sum, row) => sum + row.collected, 0),
      declined: rows.reduce((sum, row) => sum + row.declined, 0),
      planned: ahead.length,
      sums: currencies.map((currency) => ({
        currency,
        collected: rows.find((row) => row.currency === currency)?.sum ?? '0',
        planned: ahead
          .filter((payment) => payment.currency === currency)
          .reduce((sum, { amount }) => sum + BigInt(amount), 0n)
          .toString(),
      })),
    };
  });
}
