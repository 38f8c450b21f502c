import type { Day } from './day.ts';
import { daysInMonth, firstOfMonth, type MonthIndex } from './month.ts';

/** The days of the week in the order of ISO 8601. */
export const WEEKDAYS = ['mon', 'tue', 'wed', 'thu', 'fri', 'sat', 'sun'] as const;

/** The place of a day in its week: 0 is Monday, 6 is Sunday. Day 0, 1 January 1970, was a Thursday. */
export function weekdayIndex(day: Day): number {
  return (((day + 3) % 7) + 7) % 7;
}

/** The first day on or after the given one that falls on the given weekday (0..6). */
export function weekdayOnOrAfter(day: Day, weekday: number): Day {
  return day + ((weekday - weekdayIndex(day) + 7) % 7);
}

/**
 * The nth (1..4) or last such weekday of a month. Every month has four of each.
 * @example the last Monday of May 2027 is 31 May; of June 2027, 28 June
 */
export function nthWeekday(index: MonthIndex, nth: 1 | 2 | 3 | 4 | 'last', weekday: number): Day {
  const first = weekdayOnOrAfter(firstOfMonth(index), weekday);
  if (nth !== 'last') return first + 7 * (nth - 1);
  const end = firstOfMonth(index) + daysInMonth(index);
  return first + 28 < end ? first + 28 : first + 21;
}
