import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { requireDiscountFree } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Archivable } from './messages.ts';
import { requireCardFree } from '../rateCards/rateCards.ts';

interface Kept {
  readonly table: string;
  /** Refuses to put back what would stand in the way of something that took its place meanwhile. */
  readonly mayReturn?: (almanac: Almanac, id: string, within: Transaction) => Promise<void>;
}

/** What of the offer can be archived, by the word for it, and where it is kept. */
const ARCHIVED = {
  plan: { table: 'plans' },
  rate: { table: 'rates' },
  variant: { table: 'variants' },
  'rate card': { table: 'rate_cards', mayReturn: requireCardFree },
  discount: { table: 'discounts', mayReturn: requireDiscountFree },
} satisfies Readonly<Record<Archivable, Kept>>;

export const ARCHIVABLES = Object.keys(ARCHIVED) as Archivable[];

/**
 * Takes something off sale, or puts it back. Those who have it go on and keep what they agreed to; nothing with history
 * is deleted.
 */
export async function setArchived(
  almanac: Almanac,
  what: Archivable,
  id: string,
  archived: boolean,
  today: string,
): Promise<void> {
  await almanac.db.transaction((within) => setArchivedWithin(almanac, what, id, archived, today, within));
}

/** The same, as a part of something else that is done. */
export async function setArchivedWithin(
  almanac: Almanac,
  what: Archivable,
  id: string,
  archived: boolean,
  today: string,
  within: Transaction,
): Promise<void> {
  const { table, mayReturn }: Kept = ARCHIVED[what];
  if (!archived) await mayReturn?.(almanac, id, within);
  const found = await almanac.db.row<{ name: string }>(
    `update ${table} set archived_on = $on where id = $id returning name`,
    { id, on: archived ? today : null },
    within,
  );
  if (!found) throw new RefusedCommand(404, `There is no such ${what}.`);
  const did = `${archived ? 'archived' : 'restored'} a ${what}`;
  await recordDone(almanac, { did, subject: found.name }, within);
}
