import { mendCell, MENDS, RETRIES, retryCell, type Cells } from './cells.ts';
import type { PastDecline, PastRecovery, PastRetry } from './history.ts';
import {
  chancesOf,
  fitLogistic,
  nothingCounted,
  oddsOf,
  type Counted,
  type Fitted,
  type Odds,
} from './logistic.ts';

/**
 * The model of success. A retry succeeds with a chance that depends on why the payment failed, the day of the month, the
 * weekday, the days since it failed and how many retries there were; and on every day that it is open the customer may mend
 * it, with a chance that depends on why it failed, the days since the last letter and how many letters there were. Both are
 * logistic regressions, fitted to what happened, with priors that carry where little did (`cells.ts`).
 */
export interface Model {
  readonly retries: Fitted;
  readonly mends: Fitted;
  /** What they were fitted to. */
  readonly seen: {
    readonly retries: number;
    readonly collected: number;
    readonly declines: number;
    readonly mended: number;
  };
}

/** Fits the model to what a business has lived through; to nothing, and it is the priors alone. */
export function fitModel({ declines, retries }: Pick<PastRecovery, 'declines' | 'retries'>): Model {
  return {
    retries: fitLogistic(RETRIES, countRetries(retries)),
    mends: fitLogistic(MENDS, countMends(declines)),
    seen: {
      retries: retries.length,
      collected: retries.filter(({ collected }) => collected).length,
      declines: declines.length,
      mended: declines.filter(({ outcome }) => outcome === 'mended').length,
    },
  };
}

function countRetries(retries: readonly PastRetry[]): Counted {
  const counted = nothingCounted(RETRIES);
  for (const past of retries) count(counted, cellOfRetry(past), past.collected);
  return counted;
}

/** The cell of a retry that was made. */
export function cellOfRetry({ declineClass, on, daysSince, retry }: PastRetry): number {
  return retryCell(declineClass, on, daysSince, retry);
}

/** Each day on which a case was open is one on which it might have been mended. */
function countMends(declines: readonly PastDecline[]): Counted {
  const counted = nothingCounted(MENDS);
  for (const past of declines) for (const { cell, came } of daysOfMending(past)) count(counted, cell, came);
  return counted;
}

/** The days on which a customer might have mended it, each with its cell and whether it came about. */
export function* daysOfMending({
  failedOn,
  overOn,
  lettersOn,
  declineClass,
  outcome,
}: PastDecline): Generator<{ readonly cell: number; readonly came: boolean }> {
  let letters = 0;
  const mended = outcome === 'mended';
  // On the day that it was over without being mended, nobody knows what would have come of the rest of the day.
  for (let day = failedOn; day < overOn || (mended && day === overOn); day += 1) {
    while (letters < lettersOn.length && (lettersOn[letters] ?? day) <= day) letters += 1;
    const last = lettersOn[letters - 1];
    const cell = mendCell(declineClass, letters, last === undefined ? null : day - last);
    yield { cell, came: mended && day === overOn };
  }
}

function count({ tried, came }: Counted, cell: number, came1: boolean): void {
  tried[cell] = (tried[cell] ?? 0) + 1;
  if (came1) came[cell] = (came[cell] ?? 0) + 1;
}

/** The chance of every cell of a kind by the most likely effects. */
export function likelyChances(cells: Cells, { mode }: Fitted): Float64Array {
  return chancesOf(cells, mode, [...Array(cells.size).keys()], new Float64Array(cells.size));
}

/** What the model has learned of each effect, of retries and of mending. */
export function learned(
  model: Model,
  { declines, retries }: PastRecovery,
): { readonly retries: readonly Odds[]; readonly mends: readonly Odds[] } {
  return {
    retries: oddsOf(RETRIES, model.retries, countRetries(retries)),
    mends: oddsOf(MENDS, model.mends, countMends(declines)),
  };
}
