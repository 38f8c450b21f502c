import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import { inTurn, isOfSubscription } from '../customers/inTurn.ts';
import type { Channel } from './channel.ts';
import type { AttemptState } from './states.ts';

/**
 * The attempt at an invoice that is under way, for `exists`: while there is one nothing else charges it. A payment that its payer
 * may still make at the gateway's page is none: they may go on with it.
 * @param i the alias of the invoice in the statement
 */
export const collecting = (i: string) =>
  `select from attempts a join payment_methods m on m.id = a.payment_method_id
   where a.invoice_id = ${i}.id and a.state = 'under way' and m.kind <> 'online transfer'`;

/** An invoice that is to be charged, with all that an attempt at it, and its receipt, need to know. */
export interface Chargeable {
  readonly invoiceId: string;
  readonly number: string;
  readonly kind: string;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly currency: string;
  /** Minor units, digits only. */
  readonly owed: string;
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly hadTrial: boolean;
  readonly chargedBefore: boolean;
  readonly customer: string;
  readonly email: string;
  readonly plan: string;
  readonly business: string;
  readonly instance: string;
  readonly planText: string;
  readonly methodId: string;
  readonly token: string;
  readonly network: string;
  readonly lastFour: string;
  readonly accountId: string;
  readonly channel: Channel | null;
}

/**
 * Those of some invoices that are charged in the plain way, locked with their subscriptions: one due, charged by itself,
 * never tried, without a case, on a usable card. All others take the careful way.
 */
export function lockChargeable(
  { db }: Almanac,
  ids: readonly string[],
  within: Transaction,
): Promise<Chargeable[]> {
  return db.rows<Chargeable>(
    `select i.id::text as "invoiceId", i.prefix || i.number as number, i.kind, i.period_from as "periodFrom",
       i.period_to as "periodTo", i.currency, i.owed::text,
       s.id::text as "subscriptionId", s.customer_id::text as "customerId",
       coalesce(s.trial_ends_on <> s.starts_on, false) as "hadTrial",
       coalesce(s.trial_ends_on <> s.starts_on, false) and exists (
         select 1 from invoices e where e.subscription_id = s.id and e.id < i.id and e.kind <> 'trial'
           and e.state <> 'withdrawn' and greatest(e.total, 0) > e.credit_used) as "chargedBefore",
       c.name as customer, c.email, coalesce(nullif(p.outer_name, ''), p.name) as plan, b.name as business,
       b.instance::text, coalesce(p.statement_text, b.statement_text) as "planText",
       m.id::text as "methodId", m.gateway_token as token, m.network, m.last_four as "lastFour",
       m.gateway_account_id::text as "accountId",
       (select d.channel from mandates d where d.payment_method_id = m.id order by d.id desc limit 1) as channel
     from invoices i join subscriptions s on s.id = i.subscription_id join customers c on c.id = s.customer_id
     join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id cross join business b
     join lateral (
       select m.* from payment_methods m join gateway_accounts g on g.id = m.gateway_account_id
       where ${isOfSubscription('m', 's')} and m.state = 'usable'
       order by g.disconnected_on is not null, ${inTurn('m', 's')} limit 1) m on true
     where i.id = any($ids::bigint[]) and i.state = 'issued' and i.case_id is null and i.collected = 0
       and i.owed > 0 and s.collects = 'automatic' and s.invoicing = 'each' and s.state <> 'lapsed'
       and not exists (select 1 from attempts a where a.invoice_id = i.id)
       and not exists (select 1 from dues d where d.invoice_id = i.id)
     for no key update of s, i`,
    { ids },
    within,
  );
}

/** An attempt that is about to be sent. */
export interface AttemptToWrite {
  readonly invoiceId: string;
  readonly customerId: string;
  readonly methodId: string;
  readonly accountId: string;
  readonly idempotencyKey: string;
  readonly amount: string;
  readonly channel: Channel;
  /** What is sent, as it is stored. */
  readonly request: string;
}

/** Stores attempts before they are sent, and gives their numbers by their keys. From now on they count as sent. */
export async function writeAttempts(
  { db }: Almanac,
  attempts: readonly AttemptToWrite[],
  businessDate: string,
  within: Transaction,
): Promise<Map<string, string>> {
  if (attempts.length === 0) return new Map();
  const { table, bound } = unnested(
    {
      invoice_id: 'bigint',
      customer_id: 'bigint',
      method_id: 'bigint',
      account_id: 'bigint',
      key: 'text',
      amount: 'bigint',
      channel: 'text',
      request: 'jsonb',
    },
    attempts.map((one) => ({
      invoice_id: one.invoiceId,
      customer_id: one.customerId,
      method_id: one.methodId,
      account_id: one.accountId,
      key: one.idempotencyKey,
      amount: one.amount,
      channel: one.channel,
      request: one.request,
    })),
  );
  const written = await db.rows<{ id: string; key: string }>(
    `insert into attempts (invoice_id, customer_id, payment_method_id, gateway_account_id, idempotency_key, amount, reason, channel,
                           request, state, attempted_on, sent_at)
     select invoice_id, customer_id, method_id, account_id, key, amount, 'renewal', channel, request, 'under way', $businessDate, now()
     from ${table} order by place
     returning id::text, idempotency_key as key`,
    { ...bound, businessDate },
    within,
  );
  return new Map(written.map(({ id, key }) => [key, id]));
}

/** Notes of attempts that they surely never reached the gateway. */
export async function noteUnsent({ db }: Almanac, ids: readonly string[]): Promise<void> {
  if (ids.length === 0) return;
  await db.rows(`update attempts set sent_at = null where id = any($ids::bigint[]) and state = 'under way'`, {
    ids,
  });
}

/** What the gateway collected of an attempt. */
export interface CollectedCharge {
  readonly attemptId: string;
  readonly code: string;
  readonly charge: string;
}

/**
 * Writes attempts down as collected, with their invoices and subscriptions locked. Those that somebody has settled
 * meanwhile, or whose invoice has got a case, are left out.
 * @returns the numbers of the attempts that this has settled
 */
export async function settleCollected(
  { db }: Almanac,
  charges: readonly CollectedCharge[],
  on: string,
  within: Transaction,
): Promise<Set<string>> {
  const locked = await db.rows<{ id: string }>(
    `select a.id::text from attempts a join invoices i on i.id = a.invoice_id join subscriptions s on s.id = i.subscription_id
     where a.id = any($ids::bigint[]) and a.state = 'under way' and i.case_id is null and i.collected = 0
     order by s.id, i.id, a.id for no key update of s, i, a`,
    { ids: charges.map(({ attemptId }) => attemptId) },
    within,
  );
  const ours = new Set(locked.map(({ id }) => id));
  const settled = charges.filter(({ attemptId }) => ours.has(attemptId));
  if (settled.length === 0) return new Set();
  const state: AttemptState = 'collected';
  const { table, bound } = unnested(
    { id: 'bigint', code: 'text', charge: 'text' },
    settled.map(({ attemptId, code, charge }) => ({ id: attemptId, code, charge })),
  );
  const written = await db.rows<{ id: string }>(
    `update attempts a set state = $state, response_code = x.code, gateway_charge = x.charge, settled_at = now(),
       attempted_on = $on
     from ${table} where a.id = x.id and a.state = 'under way' returning a.id::text`,
    { ...bound, state, on },
    within,
  );
  return new Set(written.map(({ id }) => id));
}
