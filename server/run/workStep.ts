import { setTimeout as pause } from 'node:timers/promises';
import { ClaimLost, isConflict, isOurTrouble } from '../db/trouble.ts';
import { Claims, GiveBack, type Batch } from './claim.ts';
import { isolated } from './isolated.ts';
import type { Pass, Step, Together } from './step.ts';

/** Batches that one worker has in hand: while one waits for the database or a gateway, the other is computed. */
const IN_HAND = 2;
const POLL_MS = 20;

/** Does one step of a day, together with whoever else is at it, until nothing of it is due or claimed. */
export async function workStep(pass: Pass, step: Step, at: number): Promise<void> {
  const { almanac, businessDate, worker, signal } = pass;
  signal.throwIfAborted();
  const of = {
    ...{ businessDate, at, step: step.name, size: step.size, due: step.due },
    bound: step.bound?.(pass) ?? {},
  };
  const claims = new Claims(almanac.db, of, worker, almanac.config.LEASE_MS);
  const { mine, isOpen } = await claims.plan(1);
  if (!isOpen && mine.length === 0) return;
  for (let first: Batch | null = mine[0] ?? null; ; first = null) {
    const hands = Array.from({ length: IN_HAND }, (_, hand) =>
      workBatches(pass, step, claims, hand === 0 ? first : null),
    );
    for (const one of await Promise.allSettled(hands)) if (one.status === 'rejected') throw one.reason;
    if (!(await claims.isOpen())) break;
    // The rest is in other hands: it is waited for, and taken over should they fall silent.
    await pause(POLL_MS);
    signal.throwIfAborted();
  }
  await claims.close();
}

/** One hand of a worker: takes batch after batch until none is free. */
async function workBatches(pass: Pass, step: Step, claims: Claims, first: Batch | null): Promise<void> {
  for (let batch = first; ; batch = null) {
    pass.signal.throwIfAborted();
    batch ??= await claims.claim();
    if (batch === null) return;
    const held = batch;
    try {
      await claims.holding(held, (lost) => workBatch(pass, step, claims, held, lost));
      await claims.finish(held);
    } catch (error) {
      await claims.giveBack(held).catch(() => undefined);
      if (error instanceof GiveBack || error instanceof ClaimLost) continue;
      throw error;
    }
  }
}

async function workBatch(
  pass: Pass,
  step: Step,
  claims: Claims,
  batch: Batch,
  lost: AbortSignal,
): Promise<void> {
  const signal = AbortSignal.any([pass.signal, lost]);
  const inOrder = () => claims.earlierDone(batch, signal);
  const within = { ...pass, signal };
  const left = await together(within, step, batch.items, { signal, inOrder });
  if (left.length === 0) return;
  // One by one the order is kept as well: whatever comes of it, those before have had their turn.
  if (step.together) await inOrder();
  await isolated(within, step, left);
}

/** Does a batch together; what could not be done so is given back, to be done one by one. */
async function together(
  pass: Pass,
  step: Step,
  items: readonly string[],
  how: Together,
): Promise<readonly string[]> {
  if (!step.together) return items;
  how.signal.throwIfAborted();
  try {
    return await step.together(pass, items, how);
  } catch (error) {
    how.signal.throwIfAborted();
    if (error instanceof GiveBack) throw error;
    // Conflicts pass when the items are done one by one; our own trouble ends the pass.
    if (isOurTrouble(error) && !isConflict(error)) throw error;
    pass.almanac.log.warn(
      { step: step.name, businessDate: pass.businessDate, items: items.length, err: error },
      'a batch is done one by one',
    );
    return items;
  }
}
