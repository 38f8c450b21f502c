import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { unnested } from '../db/unnested.ts';
import type { ChargeRecord } from '../gateways/port.ts';
import { firstOf } from './breaches.ts';
import type { Finding } from './finding.ts';

/** So many charges of a gateway's record are held in memory together. */
const BATCH = 5_000;

/**
 * Every collected payment is one charge at the gateway, and the other way round. The record of every account that is
 * connected is noted in a table that is gone at the end, and the two are compared there; an account that is not connected
 * cannot be asked.
 */
export async function paymentsAreCharges(almanac: Almanac): Promise<Finding> {
  const { db } = almanac;
  const { instance } = await Business.findOne({ rejectOnEmpty: true });
  // What is paid while the records are read may have been charged after its place in them.
  const last = await db.row<{ id: string }>('select coalesce(max(id), 0)::text as id from payments');
  const breaches = await db.transaction(async (within) => {
    await db.rows(
      'create temporary table told (id text, key text, amount bigint, currency text) on commit drop',
      {},
      within,
    );
    let some: ChargeRecord[] = [];
    for (const account of await almanac.gateways.connected(within))
      for await (const charge of almanac.gateways.of(account).charges()) {
        if (charge.state === 'collected' && charge.idempotencyKey.startsWith(`${instance}:`))
          some.push(charge);
        if (some.length === BATCH) some = await note(almanac, some, within);
      }
    await note(almanac, some, within);
    await noteRefunds(almanac, instance, within);
    await db.rows('create index on told (key)', {}, within);
    await db.rows('analyze told', {}, within);
    return db.rows<{ breach: string }>(firstOf(COMPARED), { last: last?.id ?? '0' }, within);
  });
  return {
    rule: 'every collected payment is one charge at the gateway, and the other way round',
    breaches: breaches.map(({ breach }) => breach),
  };
}

async function note(
  { db }: Almanac,
  some: readonly ChargeRecord[],
  within: Transaction,
): Promise<ChargeRecord[]> {
  const { table, bound } = unnested(
    { id: 'text', key: 'text', amount: 'bigint', currency: 'text' },
    some.map(({ id, idempotencyKey: key, amount, currency }) => ({ id, key, amount, currency })),
  );
  await db.rows(`insert into told select id, key, amount, currency from ${table}`, bound, within);
  return [];
}

/** The refunds of every account that is connected: each is one of ours, and the other way round. */
async function noteRefunds(
  almanac: Almanac,
  instance: string | undefined,
  within: Transaction,
): Promise<void> {
  const { db } = almanac;
  await db.rows(
    'create temporary table told_back (key text, amount bigint, currency text, state text) on commit drop',
    {},
    within,
  );
  for (const account of await almanac.gateways.connected(within)) {
    const rows: { key: string; amount: bigint; currency: string; state: string }[] = [];
    for await (const { idempotencyKey: key, amount, currency, state } of almanac.gateways
      .of(account)
      .refunds())
      if (key.startsWith(`${instance}:`)) rows.push({ key, amount, currency, state });
    const { table, bound } = unnested(
      { key: 'text', amount: 'bigint', currency: 'text', state: 'text' },
      rows,
    );
    await db.rows(`insert into told_back select key, amount, currency, state from ${table}`, bound, within);
  }
}

/** What is under way may have been charged: it is no breach while it is still asked for. */
const COMPARED = `
  with paid as (
    select p.id, a.idempotency_key as key, p.amount, p.currency, i.number
    from payments p join attempts a on a.id = p.attempt_id join invoices i on i.id = p.invoice_id
    join gateway_accounts g on g.id = a.gateway_account_id
    where g.disconnected_on is null)
  select 'charge ' || t.id || ' at the gateway has no payment here, or is a second one' as breach
  from (select id, key, row_number() over (partition by key order by id) as nth from told) t
  where (t.nth > 1 or not exists (select from paid p where p.key = t.key))
    and not exists (select from attempts a where a.idempotency_key = t.key and a.state = 'under way')
  union all
  select 'the payment of invoice ' || p.number || ' and its charge ' || t.id || ' differ in amount'
  from told t join paid p using (key) where p.amount <> t.amount or p.currency <> t.currency
  union all
  select 'the payment of invoice ' || p.number || ' has no charge at the gateway'
  from paid p where p.id <= $last and not exists (select from told t where t.key = p.key)
  union all
  select 'a refund of ' || t.amount || ' ' || t.currency || ' at the gateway is none of ours, or a second one'
  from (select *, row_number() over (partition by key) as nth from told_back) t
  where t.state <> 'failed'
    and (t.nth > 1 or not exists (select from refunds f where f.idempotency_key = t.key and f.amount = t.amount and f.state <> 'failed'))
  union all
  select 'the refund ' || f.id || ' was not made at the gateway'
  from refunds f join attempts a on a.id = f.attempt_id join gateway_accounts g on g.id = a.gateway_account_id
  where f.means = 'gateway' and f.state = 'done' and g.disconnected_on is null
    and not exists (select from told_back t where t.key = f.idempotency_key and t.amount = f.amount and t.state = 'done')`;
