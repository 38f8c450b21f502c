import type { Almanac } from '../almanac.ts';

/** What one day comes to in one currency, in minor units. */
export interface DaySum {
  readonly date: string;
  readonly kind: 'collected' | 'declined' | 'planned';
  readonly currency: string;
  readonly payments: number;
  readonly amount: string;
}

/** The sums of some days, both inclusive; days and kinds of which there is nothing are left out. */
export function readDaySums({ db }: Pick<Almanac, 'db'>, from: string, until: string): Promise<DaySum[]> {
  return db.rows<DaySum>(
    `select on_day as date, kind, currency, sum(payments)::int as payments, sum(amount)::text as amount
     from day_sums where on_day between $from and $until
     group by 1, 2, 3 having sum(payments) <> 0 order by 1, 2, 3`,
    { from, until },
  );
}

/** Whether there are sums in more than one row, as the one item of a step. */
export const SUMS_TO_FOLD = `
  select 'all' as item where exists (select from day_sums group by on_day, kind, currency having count(*) > 1)`;

/** Makes one row of all that was added to and taken from a day. What is added meanwhile stays a row of its own. */
export async function foldDaySums({ db }: Pick<Almanac, 'db'>): Promise<void> {
  await db.rows(
    `with several as (
       select on_day, kind, currency from day_sums group by 1, 2, 3 having count(*) > 1),
     gone as (
       delete from day_sums d using several s
       where d.on_day = s.on_day and d.kind = s.kind and d.currency = s.currency
       returning d.on_day, d.kind, d.currency, d.payments, d.amount)
     insert into day_sums (on_day, kind, currency, payments, amount)
     select on_day, kind, currency, sum(payments), sum(amount) from gone group by 1, 2, 3
     having sum(payments) <> 0 or sum(amount) <> 0`,
  );
}

/** What the sums of days are sums of. */
export const DAY_SUMS_ANEW = `
  select paid_on as on_day, 'collected' as kind, currency, count(*) as payments, sum(amount) as amount from payments group by 1, 3
  union all
  select a.attempted_on, 'declined', i.currency, count(*), sum(a.amount)
  from attempts a join invoices i on i.id = a.invoice_id where a.state = 'declined' group by 1, 3
  union all
  select charge_on, 'planned', currency, sum(payments), sum(amount) from planned_charges group by 1, 3`;

/** Makes the sums of days anew of what they are sums of; nobody else writes any meanwhile. */
export function rebuildDaySums({ db }: Pick<Almanac, 'db'>): Promise<void> {
  return db.transaction(async (within) => {
    await db.rows(
      'lock payments, attempts, planned_charges, day_sums in share row exclusive mode',
      {},
      within,
    );
    await db.rows('delete from day_sums', {}, within);
    await db.rows(
      `insert into day_sums (on_day, kind, currency, payments, amount) ${DAY_SUMS_ANEW}`,
      {},
      within,
    );
  });
}
