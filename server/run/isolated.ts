import pMap from 'p-map';
import type { Almanac } from '../almanac.ts';
import { isConflict, isOurTrouble } from '../db/trouble.ts';
import { raiseNeed } from './needs.ts';

/** One pass over a day: what it works with, and the word that it is to stop. */
export interface Pass {
  readonly almanac: Almanac;
  readonly businessDate: string;
  /** Aborted when the right to turn days is lost: nothing more is begun then. */
  readonly signal: AbortSignal;
}

/** Two transactions in each other's way are tried again so often. */
const TRIES = 4;

/**
 * Does the work on one subscription. One customer's trouble never stops the others: it becomes a line on the day sheet.
 * Our own trouble, a lost connection or a lost lock, is nobody's fault: it stops the pass, which is taken up again.
 */
export async function isolated(
  { almanac, businessDate, signal }: Pass,
  subscriptionId: string,
  work: () => Promise<unknown>,
): Promise<void> {
  for (let tried = 1; ; tried += 1) {
    signal.throwIfAborted();
    try {
      await work();
      return;
    } catch (error) {
      if (isConflict(error) && tried < TRIES) continue;
      if (isOurTrouble(error)) throw error;
      await hold(almanac, subscriptionId, businessDate, error);
      return;
    }
  }
}

async function hold(
  almanac: Almanac,
  subscriptionId: string,
  businessDate: string,
  error: unknown,
): Promise<void> {
  const says = error instanceof Error ? error.message : String(error);
  await almanac.db.rows('update subscriptions set held_on = $businessDate where id = $subscriptionId', {
    businessDate,
    subscriptionId,
  });
  await raiseNeed(almanac, undefined, {
    onceKey: `held:${subscriptionId}:${businessDate}`,
    arose: businessDate,
    kind: 'held',
    says: `This could not be processed and was left as it was: ${says.slice(0, 300)}`,
    subscriptionId,
    customerId: null,
  });
}

/** Does work side by side. After the first failure nothing more is begun, and what has begun is awaited. */
export async function sideBySide<T>(
  items: readonly T[],
  lanes: number,
  work: (item: T) => Promise<unknown>,
): Promise<void> {
  const failures: unknown[] = [];
  await pMap(
    items,
    async (item) => {
      if (failures.length > 0) return;
      await work(item).catch((error: unknown) => failures.push(error));
    },
    { concurrency: lanes },
  );
  if (failures.length > 0) throw failures[0];
}
