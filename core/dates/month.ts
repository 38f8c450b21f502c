import { civilOf, dayOf, type Day } from './day.ts';

/**
 * A month counted through: year × 12 + (month − 1). Adding n is "n months on"; the year 2027's January
 * is 24324. Working in this count keeps additions of months free of carries.
 */
export type MonthIndex = number;

/** The month that a day lies in. */
export function monthOf(day: Day): MonthIndex {
  const { year, month } = civilOf(day);
  return year * 12 + month - 1;
}

/** The first day of a month. */
export function firstOfMonth(index: MonthIndex): Day {
  const year = Math.floor(index / 12);
  return dayOf(year, index - year * 12 + 1, 1);
}

/** The number of days of a month, 28 to 31. */
export function daysInMonth(index: MonthIndex): number {
  return firstOfMonth(index + 1) - firstOfMonth(index);
}

/**
 * The given date (1..31) of a month, clamped to the month's last day (rules 2).
 * @example formatDay(dateInMonth(2027 * 12 + 1, 31)) // '2027-02-28'
 */
export function dateInMonth(index: MonthIndex, date: number): Day {
  const first = firstOfMonth(index);
  return first + (date <= 28 ? date : Math.min(date, daysInMonth(index))) - 1;
}

/**
 * Adds whole months to a day, keeping its date where the month has it and clamping where it has not.
 * Always add from the anchor, never from an earlier sum: 31 Jan, 28 Feb, 31 Mar (rules 2).
 */
export function addMonths(day: Day, months: number): Day {
  return dateInMonth(monthOf(day) + months, civilOf(day).date);
}
