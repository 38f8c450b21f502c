import { formatDay, toDay } from '../../core/dates/day.ts';
import { DAYS_AHEAD } from '../../core/forecast/daysAhead.ts';
import type { Almanac } from '../almanac.ts';
import { METHOD, methodJoin, sayHindrance, type MethodFacts } from '../customers/chargeable.ts';
import { unnested } from '../db/unnested.ts';
import type { PlannedMovement } from '../run/messages.ts';
import type { PlannedPayment } from './walkAhead.ts';

/** The last day of which all planned charges are stored: a day less than a foresight reaches, as days turn before it is renewed. */
export function lastForeseen(businessDate: string): string {
  return formatDay(toDay(businessDate) + DAYS_AHEAD - 1);
}

/** What of the invoices that are open falls due from `$from` to `$until`, both inclusive. What has a case is its ladder's affair. */
const OPEN_DUES = `
  select d.due_on as date, i.subscription_id, 1 as payments, d.owed as amount, i.currency, i.prefix || i.number as invoice
  from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
  where d.due_on between $from::date and $until::date and (i.case_id is null or d.of_several) and s.state <> 'lapsed'`;

/** What will be charged on those days: the charges foreseen, and what is invoiced, open and not due yet. */
const PLANNED = `
  select p.charge_on as date, p.subscription_id, p.payments::int as payments, p.amount, p.currency, '' as invoice
  from planned_charges p where p.charge_on between $from::date and $until::date
  union all ${OPEN_DUES}`;

/** What of the invoices that are open falls due on each day, by currency. */
export function openDuesByDay(
  { db }: Pick<Almanac, 'db'>,
  from: string,
  until: string,
): Promise<{ date: string; currency: string; payments: number; amount: string }[]> {
  return db.rows(
    `select date, currency, count(*)::int as payments, sum(amount)::text as amount
     from (${OPEN_DUES}) dues group by 1, 2 order by 1, 2`,
    { from, until },
  );
}

/** What is walked to beyond what is stored, in place of it: rows that are given. */
const WALKED = `
  select $from::date as date, x.id as subscription_id, 1 as payments, x.amount, x.currency, '' as invoice from`;

/**
 * Some of the planned charges of one day, in the order of the customers' names.
 * @param walked the charges of a day that lies further ahead than what is stored
 */
export async function plannedRows(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  slice: { readonly limit: number; readonly offset: number },
  walked?: readonly PlannedPayment[],
): Promise<PlannedMovement[]> {
  const { table, bound } = unnested(
    { id: 'bigint', amount: 'bigint', currency: 'text' },
    (walked ?? []).map(({ subscriptionId: id, amount, currency }) => ({ id, amount, currency })),
  );
  const rows = await db.rows<Omit<PlannedMovement, 'cannotCharge'> & MethodFacts>(
    `with day as materialized (${walked ? `${WALKED} ${table} union all ${OPEN_DUES}` : PLANNED}),
     sliced as (
       -- Names one by one: joined, all customers were gone through in their order wherever the day was taken for a short one.
       select x.*, (select c.name from customers c where c.id = s.customer_id) as customer, s.rate_id
       from day x join subscriptions s on s.id = x.subscription_id
       order by customer, x.subscription_id, x.invoice limit $limit offset $offset)
     select sliced.subscription_id::text as "subscriptionId", sliced.customer, p.name as plan, sliced.invoice,
       sliced.amount::text as amount, sliced.currency, sliced.payments, ${METHOD}
     from sliced join rates r on r.id = sliced.rate_id join plans p on p.id = r.plan_id
     join subscriptions s on s.id = sliced.subscription_id ${methodJoin('sliced.date')}
     order by sliced.customer, sliced.subscription_id, sliced.invoice`,
    { ...(walked ? bound : {}), from: date, until: date, ...slice },
  );
  return rows.map(({ collects, card, card_until, hindrance, ...row }) => ({
    ...row,
    cannotCharge: sayHindrance({ collects, card, card_until, hindrance }),
  }));
}
