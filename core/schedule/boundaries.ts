import { civilOf, type Day } from '../dates/day.ts';
import { addDuration, monthsOf, type Duration } from '../dates/duration.ts';
import { dateInMonth, monthOf, type MonthIndex } from '../dates/month.ts';
import type { Anchor } from '../agreed/anchor.ts';
import { nthWeekday, weekdayOnOrAfter } from '../dates/weekday.ts';

/** The days on which periods start, by their index: 0 is the first on or after the origin, −1 the one before. */
export type Boundaries = (index: number) => Day;

/**
 * The boundaries of an interval and anchor, counted from a day A (rules 2). Every boundary is computed
 * from the anchor, never from the one before it, so that clamped months do not wander.
 *
 * @param from A: service starts, or a trial ends, or a change begins the schedule anew
 * @example every month on day 31 from 31 January: 31 Jan, 28 Feb, 31 Mar, 30 Apr
 */
export function boundariesFrom(from: Day, interval: Duration, on: Anchor | null): Boundaries {
  if (on === null) return unanchored(from, interval);
  const months = monthsOf(interval) ?? 0;
  switch (on.kind) {
    case 'day':
      return everyMonths(from, months, (month) => dateInMonth(month, on.day));
    case 'nth':
      return everyMonths(from, months, (month) => nthWeekday(month, on.nth, on.weekday));
    case 'month-day': {
      const inYear = (year: number) => dateInMonth(year * 12 + on.month - 1, on.day);
      const year = civilOf(from).year;
      const first = inYear(year) >= from ? year : year + 1;
      return (k) => inYear(first + k * interval.count);
    }
    case 'two-days': {
      const at = (half: number) => dateInMonth(Math.floor(half / 2), on.days[half % 2 === 0 ? 0 : 1]);
      let first = 2 * monthOf(from);
      while (at(first) < from) first += 1;
      return (k) => at(first + k);
    }
    case 'weekday': {
      const first = weekdayOnOrAfter(from, on.weekday);
      return (k) => first + 7 * interval.count * k;
    }
  }
}

function unanchored(from: Day, interval: Duration): Boundaries {
  const months = monthsOf(interval);
  if (months === null) return (k) => addDuration(from, interval, k);
  const first = monthOf(from);
  const { date } = civilOf(from);
  return (k) => dateInMonth(first + months * k, date);
}

/** One day in every nth month, the first of them on or after `from`. */
function everyMonths(from: Day, months: number, inMonth: (month: MonthIndex) => Day): Boundaries {
  const own = monthOf(from);
  const first = inMonth(own) >= from ? own : own + 1;
  return (k) => inMonth(first + months * k);
}
