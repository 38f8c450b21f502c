import { toDay } from '../../core/dates/day.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { RefusedCommand } from '../http/problem.ts';
import type {
  NewSuspension,
  Resuming,
  SuspensionEffect,
  SuspensionView,
  WaitingRow,
} from './suspensionMessages.ts';
import { WAITING_NOW } from './suspensions.sql.ts';

/** Collecting is stopped for so many days at most. */
const MOST_DAYS = 366;

/** What is stopped now: of everybody first, then customer by customer. */
export async function listSuspensions(almanac: Almanac): Promise<SuspensionView[]> {
  return almanac.db.rows<SuspensionView>(
    `select p.id::text, p.customer_id::text as "customerId", c.name as customer, p.from_on as "from", p.until_on as until, p.why,
       p.made_by as by
     from suspensions p left join customers c on c.id = p.customer_id
     where p.ended_on is null and p.until_on > $today::date order by p.customer_id nulls first, p.until_on, p.id`,
    { today: await businessDateOf(almanac) },
  );
}

/** How far collecting is stopped, for every screen: of everybody until a day, and of so many customers. */
export async function whatIsSuspended(
  almanac: Almanac,
): Promise<{ readonly until: string | null; readonly customers: number }> {
  const found = await almanac.db.row<{ until: string | null; customers: number }>(
    `select max(until_on) filter (where customer_id is null) as until, count(customer_id)::int as customers
     from suspensions where ended_on is null and until_on > $today::date`,
    { today: await businessDateOf(almanac) },
  );
  return found ?? { until: null, customers: 0 };
}

/** What would have happened by now and waits, page by page. */
export async function listWaiting(almanac: Almanac, query: ListQuery): Promise<Page<WaitingRow>> {
  return readPage<WaitingRow>(
    almanac.db,
    {
      select: `select * from (${WAITING_NOW}) as waiting where customer ilike $pattern and ($kind = '' or kind = $kind)`,
      bound: {
        ...{
          businessDate: await businessDateOf(almanac),
          pattern: likePattern(query.search),
          kind: query.kind,
        },
      },
      sorts: { on: '"on"', customer: 'customer', owed: 'owed::bigint' },
    },
    query,
  );
}

/** What stopping would hold back until its day: what is open, what is foreseen, and the steps of cases that come until then. */
export async function effectOfSuspending(almanac: Almanac, wanted: NewSuspension): Promise<SuspensionEffect> {
  await requireGood(almanac, wanted);
  const today = await businessDateOf(almanac);
  const bound = { today, until: wanted.until, customerId: wanted.customerId };
  const steps = await almanac.db.row<{ n: number }>(
    `select count(*)::int as n from recovery_cases k join subscriptions s on s.id = k.subscription_id
     where k.state = 'open' and least(k.next_rung_on, k.retry_on) < $until::date
       and s.customer_id = coalesce($customerId::bigint, s.customer_id)`,
    bound,
  );
  const charges = await almanac.db.rows<{ currency: string; n: number; amount: string }>(
    `select currency, sum(n)::int as n, sum(amount)::text as amount from (
       select i.currency, count(*) as n, sum(d.owed) as amount
       from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
       where d.due_on < $until::date and i.case_id is null and s.collects = 'automatic' and s.state <> 'lapsed'
         and i.customer_id = coalesce($customerId::bigint, i.customer_id) group by 1
       union all
       select p.currency, sum(p.payments), sum(p.amount) from planned_charges p join subscriptions s on s.id = p.subscription_id
       where p.charge_on between $today::date and $until::date - 1 and s.collects = 'automatic'
         and s.customer_id = coalesce($customerId::bigint, s.customer_id) group by 1) as held
     group by 1 order by 1`,
    bound,
  );
  return {
    charges: charges.reduce((sum, { n }) => sum + n, 0),
    steps: steps?.n ?? 0,
    sums: charges.map(({ currency, amount }) => ({ currency, amount })),
  };
}

/** Stops collecting: nothing is charged by itself, no rung is climbed, nobody is reminded, until the day or until it is let go on. */
export function suspend(almanac: Almanac, wanted: NewSuspension): Promise<void> {
  return almanac.db.transaction(async (within) => {
    await requireGood(almanac, wanted, within);
    await begin(almanac, wanted, within);
    await recordDone(
      almanac,
      {
        did: 'stopped collecting',
        subject: await nameOf(wanted.customerId, within),
        after: { until: wanted.until, why: wanted.why },
      },
      within,
    );
  });
}

async function begin(
  almanac: Almanac,
  { customerId, until, why }: NewSuspension,
  within: Transaction,
): Promise<void> {
  const today = await businessDateOf(almanac, within);
  // One whose day has come has ended by itself.
  await almanac.db.rows(
    `update suspensions set ended_on = until_on where ended_on is null and until_on <= $today::date
       and customer_id is not distinct from $customerId::bigint`,
    { today, customerId },
    within,
  );
  const begun = await almanac.db.row(
    `insert into suspensions (customer_id, from_on, until_on, why, made_by) values ($customerId, $today, $until, $why, $who)
     on conflict (coalesce(customer_id, 0)) where ended_on is null
     do update set until_on = excluded.until_on, why = excluded.why, made_by = excluded.made_by returning id`,
    { customerId, today, until, why, who: askerNow().who },
    within,
  );
  if (!begun) throw new Error('The suspension was not written.');
}

/**
 * Lets collecting go on: what waited is charged and climbed when the day is turned next. Whoever is kept stays stopped, each until
 * a day of their own.
 */
export function resume(almanac: Almanac, id: string, { keep }: Resuming): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const today = await businessDateOf(almanac, within);
    const ended = await almanac.db.row<{ customerId: string | null; why: string }>(
      `update suspensions set ended_on = $today, ended_by = $who where id = $id and ended_on is null and until_on > $today::date
       returning customer_id::text as "customerId", why`,
      { id, today, who: askerNow().who },
      within,
    );
    if (!ended) throw new RefusedCommand(409, 'It goes on already.');
    for (const [i, { customerId, until }] of keep.entries()) {
      const kept = { customerId, until, why: ended.why };
      await requireGood(almanac, kept, within, `/keep/${i}/until`);
      await begin(almanac, kept, within);
    }
    const names = await Promise.all(keep.map(({ customerId }) => nameOf(customerId, within)));
    await recordDone(
      almanac,
      {
        did: 'let collecting go on',
        subject: await nameOf(ended.customerId, within),
        after: { kept: keep.map(({ until }, i) => `${names[i]} until ${sayDate(until)}`) },
      },
      within,
    );
  });
}

async function nameOf(customerId: string | null, within?: Transaction): Promise<string> {
  if (customerId === null) return 'everybody';
  const customer = await Customer.findByPk(customerId, within ? { transaction: within } : {});
  return customer?.name ?? '';
}

async function requireGood(
  almanac: Almanac,
  { customerId, until }: NewSuspension,
  within?: Transaction,
  pointer = '/until',
): Promise<void> {
  const today = await businessDateOf(almanac, within);
  if (until <= today) throw new RefusedCommand(422, 'Choose a day that is to come.', pointer);
  if (toDay(until) - toDay(today) > MOST_DAYS)
    throw new RefusedCommand(422, 'Within a year: nothing is forgotten by it.', pointer);
  if (customerId !== null && (await nameOf(customerId, within)) === '')
    throw new RefusedCommand(404, 'There is no such customer.');
}
