import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import type { Foreseen } from '../../core/forecast/foresee.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { LawFacts } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import { LAW_COLUMNS } from '../subscriptions/law.ts';
import type { SubscriptionState } from '../subscriptions/states.ts';

/** What foreseeing a subscription needs to know. */
export interface Foreseeable extends LawFacts {
  readonly id: string;
  readonly walk: WalkPosition | null;
  readonly state: SubscriptionState;
  readonly wakeOn: string | null;
  readonly invoicing: 'each' | 'whole';
}

const FORESEEABLE = `
  s.id::text, s.walk, s.state, s.wake_on as "wakeOn", s.invoicing, s.terms, ${LAW_COLUMNS}`;

/** Some subscriptions as they stand, locked in the order in which everybody locks them. */
export function lockForeseeable(
  almanac: Pick<Almanac, 'db'>,
  ids: readonly string[],
  within: Transaction,
): Promise<Foreseeable[]> {
  return almanac.db.rows<Foreseeable>(
    `select ${FORESEEABLE} from subscriptions s join customers c on c.id = s.customer_id
     where s.id = any($ids::bigint[]) order by s.id for update of s`,
    { ids },
    within,
  );
}

/** The next subscriptions after one, as they stand. */
export function foreseeableAfter(
  almanac: Pick<Almanac, 'db'>,
  after: string,
  count: number,
): Promise<Foreseeable[]> {
  return almanac.db.rows<Foreseeable>(
    `select ${FORESEEABLE} from subscriptions s join customers c on c.id = s.customer_id
     where s.id > $after order by s.id limit $count`,
    { after, count },
  );
}

/** What was foreseen of a subscription, with its id and currency. */
export interface ToStore {
  readonly id: string;
  readonly currency: string;
  readonly foreseen: Foreseen;
}

/** The columns of a subscription in which what was foreseen is kept, with their types. */
export const FORESEEN_COLUMNS = {
  next_on: 'date',
  next_amount: 'bigint',
  monthly: 'bigint',
  foresee_on: 'date',
} as const;

/** Their values for one. */
export function foreseenValues({ next, monthly, again }: Foreseen) {
  return {
    next_on: next && formatDay(next.dueOn),
    next_amount: next && next.due,
    monthly,
    foresee_on: again === null ? null : formatDay(again),
  };
}

/** Stores what was foreseen of subscriptions whose own rows are written elsewhere: their planned charges. */
export async function storeCharges(
  almanac: Pick<Almanac, 'db'>,
  rows: readonly ToStore[],
  within: Transaction,
): Promise<void> {
  if (rows.length === 0) return;
  const { table, bound } = chargesOf(rows);
  // Only what differs is touched: of a renewal that is one charge less and one more.
  await almanac.db.rows(
    `with fresh as materialized (select * from ${table}),
     gone as (
       delete from planned_charges p where p.subscription_id = any($ids::bigint[])
         and not exists (select from fresh f where f.id = p.subscription_id and f.charge_on = p.charge_on))
     insert into planned_charges (subscription_id, charge_on, payments, amount, currency)
     select id, charge_on, payments, amount, currency from fresh f
     where not exists (select from planned_charges p where p.subscription_id = f.id and p.charge_on = f.charge_on
                       and p.payments = f.payments and p.amount = f.amount and p.currency = f.currency)
     on conflict (subscription_id, charge_on) do update
       set payments = excluded.payments, amount = excluded.amount, currency = excluded.currency`,
    { ...bound, ids: rows.map(({ id }) => id) },
    within,
  );
}

/** Stores the planned charges of subscriptions that have just begun, and have none. */
export async function insertCharges(
  almanac: Pick<Almanac, 'db'>,
  rows: readonly ToStore[],
  within: Transaction,
): Promise<void> {
  const { table, bound } = chargesOf(rows);
  await almanac.db.rows(
    `insert into planned_charges (subscription_id, charge_on, payments, amount, currency)
     select id, charge_on, payments, amount, currency from ${table}`,
    bound,
    within,
  );
}

function chargesOf(rows: readonly ToStore[]) {
  return unnested(
    { id: 'bigint', charge_on: 'date', payments: 'int', amount: 'bigint', currency: 'text' },
    rows.flatMap(({ id, currency, foreseen }) =>
      foreseen.charges.map(({ on, payments, amount }) => ({
        ...{ id, currency, payments, amount },
        charge_on: formatDay(on),
      })),
    ),
  );
}

/** Stores what was foreseen of subscriptions, all of it. */
export async function storeForeseen(
  almanac: Pick<Almanac, 'db'>,
  rows: readonly ToStore[],
  within: Transaction,
): Promise<void> {
  if (rows.length === 0) return;
  const { table, bound } = unnested(
    { id: 'bigint', ...FORESEEN_COLUMNS },
    rows.map(({ id, foreseen }) => ({ id, ...foreseenValues(foreseen) })),
  );
  await almanac.db.rows(
    `update subscriptions s
     set next_on = x.next_on, next_amount = x.next_amount, monthly = x.monthly, foresee_on = x.foresee_on
     from ${table} where s.id = x.id`,
    bound,
    within,
  );
  await storeCharges(almanac, rows, within);
}

/** A subscription that cannot be foreseen is looked at again on a later day. */
export async function putOff({ db }: Pick<Almanac, 'db'>, id: string, to: string): Promise<void> {
  await db.rows('update subscriptions set foresee_on = $to where id = $id', { id, to });
}
