import type { Transaction } from 'sequelize';
import type { Database } from '../db/database.ts';

/** A suspension `p` that is in force on `$businessDate` for the customer `id`, an expression. */
const inForce = (id: string) => `p.ended_on is null and (p.customer_id is null or p.customer_id = ${id})
  and p.from_on <= $businessDate::date and p.until_on > $businessDate::date`;

/** Whether what the customer `id` owes is collected by itself on `$businessDate`: for the steps of a day. */
export const isCollected = (id: string) => `not exists (select 1 from suspensions p where ${inForce(id)})`;

/** Whether somebody has stopped collecting from a customer, or from everybody. */
export async function isSuspended(
  { db }: { readonly db: Database },
  customerId: string,
  businessDate: string,
  within?: Transaction,
): Promise<boolean> {
  const found = await db.row(
    `select 1 from suspensions p where ${inForce('$customerId::bigint')} limit 1`,
    { customerId, businessDate },
    within,
  );
  return found !== null;
}

/**
 * What waits since collecting was stopped, as of `$businessDate`: charges that have come due, and steps of cases that have come.
 * `$customerId` empty: of everybody.
 */
export const WAITING_NOW = `
  select 'invoice:' || i.id as id, i.customer_id::text as "customerId", c.name as customer, 'charge' as kind,
    'Invoice ' || i.prefix || i.number as about, min(d.due_on) as "on", sum(d.owed)::text as owed, i.currency, '/invoices/' || i.id as to
  from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
    join customers c on c.id = i.customer_id
  where d.due_on <= $businessDate::date and s.state <> 'lapsed' and i.case_id is null and s.collects = 'automatic'
    and not ${isCollected('i.customer_id')}
    and not exists (select from attempts a where a.invoice_id = i.id and a.state <> 'withdrawn' and a.means = 'gateway')
  group by i.id, c.name
  union all
  select 'case:' || k.id, s.customer_id::text, c.name, 'step', 'rung ' || k.next_rung + 1 || ' of ' || jsonb_array_length(l.rungs),
    least(k.next_rung_on, k.retry_on),
    (select coalesce(sum(d.owed), 0)::text from open_dues d join invoices i on i.id = d.invoice_id
     where i.case_id = k.id and (d.due_on <= $businessDate::date or not d.of_several)),
    (select min(currency) from invoices i where i.case_id = k.id), '/cases?case=' || k.id
  from recovery_cases k join subscriptions s on s.id = k.subscription_id join customers c on c.id = s.customer_id
    join ladders l on l.id = k.ladder_id
  where k.state = 'open' and least(k.next_rung_on, k.retry_on) <= $businessDate::date and not ${isCollected('s.customer_id')}`;
