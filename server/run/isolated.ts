import pMap from 'p-map';
import { isConflict, isOurTrouble } from '../db/trouble.ts';
import { raiseNeed } from './needs.ts';
import type { Pass, Step } from './step.ts';

/** Two transactions in each other's way are tried again so often. */
const TRIES = 6;

/**
 * Does items one by one. One customer's trouble never stops the others: it becomes a line on the day sheet, with its cause
 * in the log. Our own trouble, a lost connection or a lost lock, is nobody's fault: it ends the pass, which is taken up
 * again; what has begun is awaited.
 */
export async function isolated(pass: Pass, step: Step, items: readonly string[]): Promise<void> {
  const failures: unknown[] = [];
  await pMap(
    items,
    async (item) => {
      if (failures.length > 0) return;
      await doOne(pass, step, item).catch((error: unknown) => failures.push(error));
    },
    { concurrency: step.lanes ?? 1 },
  );
  if (failures.length > 0) throw failures[0];
}

async function doOne(pass: Pass, step: Step, item: string): Promise<void> {
  for (let tried = 1; ; tried += 1) {
    pass.signal.throwIfAborted();
    try {
      await step.one(pass, item);
      return;
    } catch (error) {
      pass.signal.throwIfAborted();
      if (isConflict(error) && tried < TRIES) continue;
      if (isOurTrouble(error)) throw error;
      await hold(pass, step, item, error);
      return;
    }
  }
}

/** What could not be done is left as it was, and put on the day sheet: a person looks at it. */
async function hold(pass: Pass, step: Step, item: string, error: unknown): Promise<void> {
  const { almanac, businessDate } = pass;
  const subscriptionId = await step.subscriptionOf(almanac, item);
  almanac.log.error(
    { step: step.name, businessDate, subscription: subscriptionId, item, err: error },
    'something could not be processed and was left as it was',
  );
  const says = error instanceof Error ? error.message : String(error);
  if (subscriptionId !== null && !step.holdsNobody)
    await almanac.db.rows('update subscriptions set held_on = $businessDate where id = $subscriptionId', {
      businessDate,
      subscriptionId,
    });
  await raiseNeed(almanac, undefined, {
    onceKey: `held:${subscriptionId ?? `${step.name} ${item}`}:${businessDate}`,
    arose: businessDate,
    kind: 'held',
    says: `This could not be processed and was left as it was: ${says.slice(0, 300)}`,
    subscriptionId,
    customerId: null,
  });
}
