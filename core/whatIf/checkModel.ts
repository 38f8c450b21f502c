import type { PastRecovery } from './history.ts';
import { courseFrom } from './course.ts';
import { chancesIn, expectedOf } from './expected.ts';
import { Z_OF_90 } from './logistic.ts';
import { cellOfRetry, fitModel } from './model.ts';
import type { Day } from '../dates/day.ts';
import type { WorkingDays } from '../dates/workingDay.ts';

/** Predictions that lie near each other, beside what came about. */
export interface Bin {
  readonly count: number;
  /** The mean of what was predicted, and the share that came about, 0 to 1. */
  readonly predicted: number;
  readonly came: number;
  /** Within what the share lies with 90 %, by the interval of Wilson (1927). */
  readonly low: number;
  readonly high: number;
}

/** How well one kind of chance was predicted that the model had not seen. */
export interface Checked {
  readonly count: number;
  /** The mean of the squares by which the predictions were off (Brier, 1950): 0 the best. */
  readonly brier: number;
  /** The same of one who says the share of the past each time. */
  readonly brierOfShare: number;
  readonly bins: readonly Bin[];
}

export interface CheckedModel {
  /** The first day that the model had not seen. */
  readonly from: Day;
  /** Whether a retry would be paid. */
  readonly retries: Checked | null;
  /** Whether a payment that failed would be recovered by the ladder that it began to climb. */
  readonly declines: Checked | null;
}

/** Of what happened, the model is checked on the later part. */
const SEEN = 0.7;
/** Fewer say nothing. */
const FEWEST = 30;

/**
 * Fits the model to the earlier part of what happened and holds it against the later part: what was known when a payment
 * failed is what it is predicted by. Null where nothing has happened.
 */
export function checkModel(past: PastRecovery, calendar: WorkingDays): CheckedModel | null {
  const days = past.declines.map(({ failedOn }) => failedOn).toSorted((a, b) => a - b);
  const from = days[Math.floor(days.length * SEEN)];
  if (from === undefined) return null;
  const seen = until(past, from);
  const chances = chancesIn(fitModel(seen));
  const retries = past.retries
    .filter(({ on }) => on >= from)
    .map((one) => ({ predicted: chances[cellOfRetry(one)] ?? 0, came: one.collected }));
  const declines = past.declines
    .filter(({ failedOn, outcome }) => failedOn >= from && outcome !== 'not known')
    .flatMap(({ failedOn, declineClass, outcome, ladder: at }) => {
      const ladder = past.ladders[at];
      if (!ladder) return [];
      const course = courseFrom({ ladder, calendar }, declineClass, failedOn);
      return [{ predicted: expectedOf(course, chances).paid, came: outcome !== 'given up' }];
    });
  return {
    from,
    retries: checked(
      retries,
      shareOf(seen.retries, ({ collected }) => collected),
    ),
    declines: checked(
      declines,
      shareOf(
        seen.declines.filter(({ outcome }) => outcome !== 'not known'),
        ({ outcome }) => outcome !== 'given up',
      ),
    ),
  };
}

/** What was known before a day: what was over later was open. */
function until({ declines, retries }: PastRecovery, from: Day): Pick<PastRecovery, 'declines' | 'retries'> {
  return {
    declines: declines
      .filter(({ failedOn }) => failedOn < from)
      .map((one) => (one.overOn < from ? one : { ...one, overOn: from, outcome: 'not known' })),
    retries: retries.filter(({ on }) => on < from),
  };
}

function shareOf<T>(all: readonly T[], came: (one: T) => boolean): number {
  return all.length === 0 ? 0.5 : all.filter(came).length / all.length;
}

interface Predicted {
  readonly predicted: number;
  readonly came: boolean;
}

function checked(all: readonly Predicted[], share: number): Checked | null {
  if (all.length < FEWEST) return null;
  const off = (of: (one: Predicted) => number) =>
    all.reduce((sum, one) => sum + (of(one) - Number(one.came)) ** 2, 0) / all.length;
  const sorted = all.toSorted((a, b) => a.predicted - b.predicted);
  const bins = Math.min(8, Math.floor(all.length / 15));
  return {
    count: all.length,
    brier: off(({ predicted }) => predicted),
    brierOfShare: off(() => share),
    bins: Array.from({ length: bins }, (_, i) =>
      binOf(sorted.slice(Math.floor((i * all.length) / bins), Math.floor(((i + 1) * all.length) / bins))),
    ),
  };
}

function binOf(some: readonly Predicted[]): Bin {
  const count = some.length;
  const came = some.filter((one) => one.came).length / count;
  const centre = came + Z_OF_90 ** 2 / (2 * count);
  const reach = Z_OF_90 * Math.sqrt((came * (1 - came)) / count + Z_OF_90 ** 2 / (4 * count ** 2));
  const whole = 1 + Z_OF_90 ** 2 / count;
  return {
    ...{ count, came, predicted: some.reduce((sum, { predicted }) => sum + predicted, 0) / count },
    ...{ low: Math.max((centre - reach) / whole, 0), high: Math.min((centre + reach) / whole, 1) },
  };
}
