import { formatDay, toDay } from '../../core/dates/day.ts';
import { DAYS_AHEAD } from '../../core/forecast/foresee.ts';
import type { Almanac } from '../almanac.ts';

/** The last day of which all planned charges are stored: a day less than a foresight reaches, as days turn before it is renewed. */
export function lastForeseen(businessDate: string): string {
  return formatDay(toDay(businessDate) + DAYS_AHEAD - 1);
}

/**
 * What will be charged from `$from` to `$until`, both inclusive, as rows: the charges foreseen, and what is invoiced, open
 * and not due yet. What has a case is its ladder's affair.
 */
const PLANNED = `
  select p.charge_on as date, p.subscription_id, p.payments::int as payments, p.amount, p.currency, '' as invoice
  from planned_charges p where p.charge_on between $from::date and $until::date
  union all
  select d.due_on, i.subscription_id, 1, d.owed, i.currency, i.prefix || i.number
  from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
  where d.due_on between $from::date and $until::date and (i.case_id is null or d.of_several) and s.state <> 'lapsed'`;

/** What of the invoices that are open falls due on each day, by currency. */
export function openDuesByDay(
  { db }: Pick<Almanac, 'db'>,
  from: string,
  until: string,
): Promise<{ date: string; currency: string; payments: number; amount: string }[]> {
  return db.rows(
    `select d.due_on as date, i.currency, count(*)::int as payments, sum(d.owed)::text as amount
     from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
     where d.due_on between $from::date and $until::date and (i.case_id is null or d.of_several) and s.state <> 'lapsed'
     group by 1, 2 order by 1, 2`,
    { from, until },
  );
}

/** Planned charges of one day, in the order of the customers' names. */
export interface PlannedRow {
  readonly subscriptionId: string;
  readonly customer: string;
  readonly plan: string;
  readonly invoice: string;
  readonly amount: string;
  readonly currency: string;
}

/** Some of the planned charges of one day. */
export function plannedRows(
  { db }: Pick<Almanac, 'db'>,
  date: string,
  { limit, offset }: { readonly limit: number; readonly offset: number },
): Promise<PlannedRow[]> {
  return db.rows<PlannedRow>(
    `with sliced as (
       select x.*, c.name as customer, s.rate_id from (${PLANNED}) x
       join subscriptions s on s.id = x.subscription_id join customers c on c.id = s.customer_id
       order by c.name, x.subscription_id, x.invoice limit $limit offset $offset)
     select sliced.subscription_id::text as "subscriptionId", sliced.customer, p.name as plan, sliced.invoice,
       sliced.amount::text as amount, sliced.currency
     from sliced join rates r on r.id = sliced.rate_id join plans p on p.id = r.plan_id
     order by sliced.customer, sliced.subscription_id, sliced.invoice`,
    { from: date, until: date, limit, offset },
  );
}
