import { randomUUID } from 'node:crypto';
import type { Almanac } from '../almanac.ts';
import { CLOSING, DAY, WAITING } from './day.ts';
import { firstDue } from './firstDue.ts';
import type { Pass, Step } from './step.ts';
import { workStep } from './workStep.ts';

export interface Turning {
  /** Aborted when this pass is to end. */
  readonly signal?: AbortSignal;
  /** Whether a day that was turned is looked at again, as today is every minute in production. Usually it is. */
  readonly again?: boolean;
  /** Whether the day is over with this: its letters to staff are written. Usually it is. */
  readonly closing?: boolean;
  readonly now?: Date;
}

/**
 * Turns one business day, together with whoever else is at it: everything due up to it that is not done, step by step.
 * Charges whose gateway account cannot be asked wait: the day is done without them, and they are asked for again in every
 * later pass.
 */
export async function turnDay(
  almanac: Almanac,
  businessDate: string,
  { signal, again = true, closing = true, now = almanac.clock() }: Turning = {},
): Promise<void> {
  const steps = closing ? [...DAY, ...CLOSING] : DAY;
  const day = await almanac.db.row<{ over: boolean }>(
    `insert into days (business_date) values ($businessDate)
     on conflict (business_date) do update
       set step = case when $again and days.step >= $steps then 0 else days.step end
     returning step >= $steps as over`,
    { businessDate, again, steps: steps.length },
  );
  if (day?.over) return;
  const pass = passOver(almanac, businessDate, signal, now);
  // A day that is looked at again has most often nothing to do: one look for all steps tells so.
  const first = again ? await firstDue(pass, steps) : 0;
  await workSteps(pass, steps, first);
  await almanac.db.rows(
    `update days set step = greatest(step, $steps), finished_at = coalesce(finished_at, now())
     where business_date = $businessDate`,
    { businessDate, steps: steps.length },
  );
}

/** Asks again about everything that waits or is not known, between the turns of two pages. */
export async function askForWaiting(
  almanac: Almanac,
  businessDate: string,
  signal: AbortSignal | undefined,
): Promise<void> {
  const pass = passOver(almanac, businessDate, signal, almanac.clock());
  await workSteps(pass, WAITING, await firstDue(pass, WAITING));
}

async function workSteps(pass: Pass, steps: readonly Step[], first: number): Promise<void> {
  for (const [at, step] of steps.entries()) if (at >= first) await workStep(pass, step, at);
}

function passOver(
  almanac: Almanac,
  businessDate: string,
  signal: AbortSignal = new AbortController().signal,
  now: Date,
): Pass {
  return {
    almanac: { ...almanac, gateways: almanac.gateways.forOnePass() },
    ...{ businessDate, signal, now },
    worker: randomUUID(),
  };
}
