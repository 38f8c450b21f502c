import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { FORESEEN_TOGETHER, foreseeAnew } from './foresee.ts';

/** Whether a changed law has not reached all subscriptions, as the one item of a step. */
export const LAW_TO_FOLLOW = `select 'all' as item from law_changes where reached is not null`;

/**
 * Foresees all subscriptions anew by the law as it stands, batch after batch; a law that changes meanwhile begins anew. Several
 * workers that are at it take turns.
 */
export async function followLaw(almanac: Almanac, signal: AbortSignal): Promise<void> {
  if (!(await almanac.db.row(LAW_TO_FOLLOW))) return;
  for (let more = true; more;) {
    signal.throwIfAborted();
    more = await almanac.db.transaction((within) => followInBatch(almanac, within));
  }
}

async function followInBatch(almanac: Almanac, within: Transaction): Promise<boolean> {
  const at = await almanac.db.row<{ reached: string | null }>(
    'select reached from law_changes for update',
    {},
    within,
  );
  if (!at || at.reached === null) return false;
  const ids = await almanac.db.rows<{ id: string }>(
    `select id::text from subscriptions
     where id > $after and (state not in ('lapsed', 'ended') or wake_on is not null)
     order by subscriptions.id limit ${FORESEEN_TOGETHER}`,
    { after: at.reached },
    within,
  );
  const bad = await foreseeAnew(
    almanac,
    ids.map(({ id }) => id),
    within,
    { passesOver: true },
  );
  // One customer's bad data stops nobody: it is looked at by itself, and named on the day sheet.
  if (bad.length > 0)
    await almanac.db.rows(
      `update subscriptions set foresee_on = '1970-01-01' where id = any($bad::bigint[])`,
      { bad },
      within,
    );
  const reached = ids.at(-1)?.id ?? null;
  await almanac.db.rows('update law_changes set reached = $reached', { reached }, within);
  return reached !== null;
}

/** How far a foresight that is being made anew has come. */
export interface Foreseeing {
  readonly done: number;
  readonly of: number;
}

/**
 * How many subscriptions have been foreseen of all, while some are still to be; null once all are. One whose foresight ends
 * with this very day is none of them: what is shown of it still holds.
 */
export async function foreseeingNow(
  { db }: Pick<Almanac, 'db'>,
  businessDate: string,
): Promise<Foreseeing | null> {
  const row = await db.row<{ left: number }>(
    `select greatest(
       (select count(*) from subscriptions where foresee_on < $businessDate),
       (select count(*) from subscriptions where id > (select reached from law_changes)))::int as left`,
    { businessDate },
  );
  if (!row || row.left === 0) return null;
  const all = await db.row<{ n: number }>('select count(*)::int as n from subscriptions');
  return { done: (all?.n ?? 0) - row.left, of: all?.n ?? 0 };
}
