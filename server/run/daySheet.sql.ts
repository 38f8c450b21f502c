import type { Almanac } from '../almanac.ts';
import type { DaySheet, SheetMovement } from './messages.ts';

/** Which rows of a part of a day's sheet are asked for. */
export interface Slice {
  readonly limit: number;
  readonly offset: number;
}

/** A narrow page of ids first; what is shown of them is joined for those alone. */
const SHOWN = `i.subscription_id::text as "subscriptionId", c.name as customer, p.name as plan,
  i.prefix || i.number as invoice, i.currency`;
const OF_INVOICE = `join customers c on c.id = i.customer_id join subscriptions s on s.id = i.subscription_id
  join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id`;

/** Payments that came in on a day, in the order of the customers' names. */
export function collectedRows(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  slice: Slice,
): Promise<SheetMovement[]> {
  return db.rows<SheetMovement>(
    // The day first, and by itself: it is never looked for along all customers in the order of their names.
    `with day as materialized (select id, invoice_id from payments where paid_on = $date),
     sliced as (
       select m.id from day m join invoices i on i.id = m.invoice_id join customers c on c.id = i.customer_id
       order by c.name, m.id limit $limit offset $offset)
     select ${SHOWN}, m.amount::text as amount
     from sliced join payments m on m.id = sliced.id join invoices i on i.id = m.invoice_id ${OF_INVOICE}
     order by c.name, m.id`,
    { date, ...slice },
  );
}

/** A charge that was declined, and what became of it. */
export interface DeclinedRow extends SheetMovement {
  readonly code: string;
  readonly caseState: string | null;
  readonly nextRungOn: string | null;
  readonly wrote: boolean;
}

/** Charges that were declined on a day, in the order of the customers' names. */
export function declinedRows(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  slice: Slice,
): Promise<DeclinedRow[]> {
  return db.rows<DeclinedRow>(
    `with day as materialized (
       select id, invoice_id from attempts where attempted_on = $date and state = 'declined'),
     sliced as (
       select a.id from day a join invoices i on i.id = a.invoice_id join customers c on c.id = i.customer_id
       order by c.name, a.id limit $limit offset $offset)
     select ${SHOWN}, a.amount::text as amount, a.response_code as code, k.state as "caseState",
       k.next_rung_on as "nextRungOn",
       exists (select from letters l where l.case_id = k.id and l.written_on = $date) as wrote
     from sliced join attempts a on a.id = sliced.id join invoices i on i.id = a.invoice_id ${OF_INVOICE}
     left join recovery_cases k on k.id = i.case_id
     order by c.name, a.id`,
    { date, ...slice },
  );
}

/** Needs of a day: of a past one those that arose on it and what became of them, of the business day all that are open. */
export function needsOf(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  today: string,
): Promise<DaySheet['needs'][number][]> {
  return db.rows<DaySheet['needs'][number]>(
    `select n.id, n.kind, n.says, n.arose_on as arose, n.settled_on as "settledOn", c.name as customer, c.id::text as "customerId",
       n.subscription_id::text as "subscriptionId"
     from needs n left join subscriptions s on s.id = n.subscription_id
     left join customers c on c.id = coalesce(n.customer_id, s.customer_id)
     where ${date < today ? 'n.arose_on = $date::date' : 'n.settled_on is null and n.arose_on > $date::date - 60'}
     order by n.arose_on desc, n.id limit ${MOST_NEEDS}`,
    { date },
  );
}

/** So many needs are listed; whoever has more sees to these first. */
export const MOST_NEEDS = 500;

const HAPPENED = `
  select id, 'started' as says from subscriptions where starts_on = $date and state <> 'scheduled'
  union all select id, 'trial ended' from subscriptions where trial_ends_on = $date and starts_on < $date
  union all select id, case state when 'ended' then 'ended: ' || ended_why else state end from subscriptions where closed_on = $date
  union all select subscription_id, 'recovered' from recovery_cases where closed_on = $date and state = 'recovered'`;

/** What else happened on a day: starts, ends of trials, endings, recoveries. */
export function happenedRows(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  slice: Slice,
): Promise<DaySheet['happened']['rows'][number][]> {
  return db.rows(
    `select s.id::text as "subscriptionId", c.name as customer, p.name as plan, h.says
     from (${HAPPENED}) h join subscriptions s on s.id = h.id join customers c on c.id = s.customer_id
     join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     order by h.says, c.name, s.id limit $limit offset $offset`,
    { date, ...slice },
  );
}

/** How much else happened on a day. */
export async function countHappened({ db }: Pick<Almanac, 'db'>, date: string): Promise<number> {
  const row = await db.row<{ n: number }>(`select count(*)::int as n from (${HAPPENED}) h`, { date });
  return row?.n ?? 0;
}

/** What was submitted and is not answered yet, by the day on which it is: debits, and charges that are to be confirmed. */
export function withBanks({ db }: Pick<Almanac, 'db'>): Promise<DaySheet['withBanks'][number][]> {
  return db.rows(
    `select a.expected_on as "expectedOn", a.waits_for as "waitsFor", i.currency, sum(a.amount)::text as amount, count(*)::int as debits
     from attempts a join invoices i on i.id = a.invoice_id
     where a.state = 'under way' and a.expected_on is not null
     group by 1, 2, 3 order by 1, 2, 3`,
  );
}
