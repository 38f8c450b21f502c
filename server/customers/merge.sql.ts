import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

interface Pair {
  /** The record that stays. */
  readonly id: string;
  readonly from: string;
}

/** What moves with a record. */
export async function countMerged(
  { db }: Almanac,
  from: string,
  within: Transaction,
): Promise<{ subscriptions: string[]; invoices: number; letters: number }> {
  const counted = await db.row<{ subscriptions: string[]; invoices: number; letters: number }>(
    `select coalesce((select array_agg(p.name order by s.id) from subscriptions s join rates r on r.id = s.rate_id
         join plans p on p.id = r.plan_id where s.customer_id = $from), '{}') as subscriptions,
       (select count(*)::int from invoices where customer_id = $from) as invoices,
       (select count(*)::int from letters where customer_id = $from) as letters`,
    { from },
    within,
  );
  return counted ?? { subscriptions: [], invoices: 0, letters: 0 };
}

/**
 * Gives the methods of one record to another. Where that has a primary one, those that come are for the subscriptions that they
 * were charged for, so that nothing is charged otherwise than before; the same card on both is used once.
 */
export async function movedMethods({ db }: Almanac, { id, from }: Pair, within: Transaction): Promise<void> {
  await db.rows(
    `update payment_methods m set state = 'replaced', gateway_token = m.gateway_token || ' of ' || m.customer_id
     where m.customer_id = $from
       and exists (select from payment_methods k where k.customer_id = $id and k.gateway_token = m.gateway_token)`,
    { id, from },
    within,
  );
  await db.rows(
    `update subscriptions s set own_method_id = coalesce(
         (select o.id from payment_methods o where o.id = s.own_method_id and o.state <> 'replaced'),
         (select m.id from payment_methods m where m.customer_id = $from and m.role = 'primary' and m.state <> 'replaced'))
     where s.customer_id = $from
       and exists (select from payment_methods k where k.customer_id = $id and k.role = 'primary' and k.state <> 'replaced')`,
    { id, from },
    within,
  );
  await db.rows(
    `update payment_methods m set customer_id = $id, role = case
         when m.state = 'replaced' then m.role
         when exists (select from payment_methods k where k.customer_id = $id and k.role = 'primary' and k.state <> 'replaced')
           then 'own' else m.role end
     where m.customer_id = $from`,
    { id, from },
    within,
  );
}

/** What belongs to a customer and moves as it stands; methods move by themselves. */
export const MOVED = [
  'attempts',
  'subscriptions',
  'invoices',
  'customer_links',
  'credit_moves',
  'credit_notes',
  'takings',
  'refunds',
  'customer_files',
  'customer_messages',
  'discount_uses',
  'enrolment_drafts',
  'merged_references',
  'needs',
  'notes',
  'reckonings',
  'suspensions',
] as const;

/** Moves everything else; gives the subscriptions that were moved. */
export async function moveRecords(
  { db }: Almanac,
  { id, from }: Pair,
  within: Transaction,
): Promise<string[]> {
  // Of two that are stopped, the longer holds for both.
  await db.rows(
    `with theirs as (update suspensions set ended_on = current_date, ended_by = 'put together' where customer_id = $from and ended_on is null
       and exists (select 1 from suspensions k where k.customer_id = $id and k.ended_on is null) returning until_on)
     update suspensions k set until_on = greatest(k.until_on, t.until_on) from theirs t where k.customer_id = $id and k.ended_on is null`,
    { id, from },
    within,
  );
  const moved = await db.rows<{ id: string }>(
    'select id::text from subscriptions where customer_id = $from order by subscriptions.id for update',
    { from },
    within,
  );
  await db.rows(
    `insert into credit_balances (customer_id, currency, credit)
       select $id::bigint, currency, credit from credit_balances where customer_id = $from
     on conflict (customer_id, currency) do update set credit = credit_balances.credit + excluded.credit`,
    { id, from },
    within,
  );
  await db.rows('delete from credit_balances where customer_id = $from', { from }, within);
  for (const table of MOVED)
    await db.rows(`update ${table} set customer_id = $id where customer_id = $from`, { id, from }, within);
  await db.rows(
    `update letters set customer_id = $id, merged_from = coalesce(merged_from, $from::bigint) where customer_id = $from`,
    { id, from },
    within,
  );
  await db.rows(
    `update contacts k set customer_id = $id where k.customer_id = $from
       and not exists (select from contacts o where o.customer_id = $id and lower(o.email) = lower(k.email))`,
    { id, from },
    within,
  );
  await db.rows('delete from contacts where customer_id = $from', { from }, within);
  await db.rows(
    `insert into merged_references (reference, customer_id)
     select reference, $id::bigint from customers where id = $from and reference not like 'new-%'`,
    { id, from },
    within,
  );
  await db.rows(
    `update customers c set since = least(c.since, o.since), created_on = least(c.created_on, o.created_on),
       method_asked_on = case when c.has_method then null else coalesce(c.method_asked_on, o.method_asked_on) end
     from customers o where c.id = $id and o.id = $from`,
    { id, from },
    within,
  );
  return moved.map((one) => one.id);
}
