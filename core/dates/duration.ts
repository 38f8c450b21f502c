import type { Day } from './day.ts';
import { addMonths } from './month.ts';

/** A duration of ISO 8601 with exactly one unit: days, weeks, months or years. */
export interface Duration {
  readonly count: number;
  readonly unit: 'D' | 'W' | 'M' | 'Y';
}

const DURATION = /^P(\d{1,9})([DWMY])$/;

/**
 * Reads an ISO 8601 duration with exactly one of D, W, M and Y, or gives null.
 * @example parseDuration('P2W') // { count: 2, unit: 'W' }
 */
export function parseDuration(text: string): Duration | null {
  const match = DURATION.exec(text);
  if (!match) return null;
  return { count: Number(match[1]), unit: match[2] as Duration['unit'] };
}

/** The duration in months where it is one of months or years, else null. */
export function monthsOf(duration: Duration): number | null {
  if (duration.unit === 'M') return duration.count;
  return duration.unit === 'Y' ? 12 * duration.count : null;
}

/** The day `times` durations after the given one, months and years clamped from that day (rules 2). */
export function addDuration(day: Day, duration: Duration, times = 1): Day {
  const months = monthsOf(duration);
  if (months !== null) return addMonths(day, months * times);
  return day + (duration.unit === 'W' ? 7 : 1) * duration.count * times;
}
