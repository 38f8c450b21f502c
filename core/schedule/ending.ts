import type { Day } from '../dates/day.ts';
import type { TimetablePosition } from './place.ts';

/** Whether the `after` in force is reached (rules 2 and 7): so many full prices have been charged since the start. */
export function isReached({ ends, fullPrices }: TimetablePosition): boolean {
  return ends !== null && 'after' in ends && fullPrices >= ends.after;
}

/**
 * Later than any day of the calendar. A whole number as days are, so that what is computed with them stays one.
 */
export const NEVER: Day = 1_000_000_000;

/** The last day of the `until` in force, or {@link NEVER}. */
export function untilOf({ ends }: TimetablePosition): Day {
  return ends !== null && 'until' in ends ? ends.until : NEVER;
}
