import type { Transaction } from 'sequelize';
import type { Database } from '../db/database.ts';
import { readAnew } from '../db/readOnce.ts';

/** The subscriptions that transactions under way have altered, of which everything stored ahead is to be foreseen anew. */
const altered = new WeakMap<Transaction, Set<string>>();

/** Notes that a transaction alters what a subscription comes to. At its end that is foreseen anew. */
export function noteAltered(within: Transaction, ...subscriptionIds: readonly string[]): void {
  const noted = altered.get(within) ?? new Set();
  for (const id of subscriptionIds) noted.add(id);
  altered.set(within, noted);
}

/** What a transaction has altered so far, and forgets it: whoever asks foresees them. */
export function takeAltered(within: Transaction): string[] {
  const noted = altered.get(within) ?? [];
  altered.delete(within);
  return [...noted];
}

/**
 * A tax, a rate of one, a holiday or a working day has changed: what is stored ahead of every subscription is to be looked
 * at again. Workers do that in batches, in the order of enrolment.
 */
export async function noteLawChanged({ db }: { readonly db: Database }, within: Transaction): Promise<void> {
  await db.rows('update law_changes set reached = 0', {}, within);
  readAnew(within);
}
