import { civilOf, type Day } from '../../core/dates/day.ts';
import { parseDuration } from '../../core/dates/duration.ts';
import { daysInMonth, monthOf } from '../../core/dates/month.ts';
import { weekdayIndex, WEEKDAYS } from '../../core/dates/weekday.ts';
import type { Schedule } from './terms.ts';

/** Every day on which periods of a schedule may start, in its rhythm, from the day A that it begins on. */
export class Rhythm {
  readonly first: Day;
  constructor(
    private readonly schedule: Schedule,
    readonly begins: Day,
    private readonly bare: boolean,
  ) {
    let day = begins;
    while (!this.allows(day)) day += 1;
    this.first = day;
  }

  private allows(day: Day): boolean {
    const on = this.bare ? undefined : this.schedule.on;
    if (on === undefined) return true;
    const { date, month } = civilOf(day);
    const last = daysInMonth(monthOf(day));
    const clamped = (wanted: unknown) => date === Math.min(wanted === 'last' ? 31 : Number(wanted), last);
    if ('month' in on) return month === on.month && clamped(on.day);
    if ('nth' in on) {
      if (WEEKDAYS[weekdayIndex(day)] !== on.weekday) return false;
      return on.nth === 'last' ? date + 7 > last : Math.ceil(date / 7) === on.nth;
    }
    if ('day' in on) return clamped(on.day);
    if ('days' in on) return (on.days as number[]).some(clamped);
    return WEEKDAYS[weekdayIndex(day)] === on.weekday;
  }

  /** Whether a period starts on this day: allowed, and a whole number of intervals from the first. */
  isBoundary(day: Day): boolean {
    const { unit = 'D', count = 1 } = parseDuration(this.schedule.interval) ?? {};
    const anchor = this.first;
    if (unit === 'D' || unit === 'W') {
      const step = count * (unit === 'W' ? 7 : 1);
      return (((day - anchor) % step) + step) % step === 0;
    }
    const on = this.bare ? undefined : this.schedule.on;
    if (!this.allows(day)) return false;
    if (on !== undefined && 'days' in on) return true;
    const months = count * (unit === 'Y' ? 12 : 1);
    if ((monthOf(day) - monthOf(anchor)) % months !== 0) return false;
    if (on !== undefined) return true;
    return civilOf(day).date === Math.min(civilOf(anchor).date, daysInMonth(monthOf(day)));
  }

  after(day: Day): Day {
    for (let next = day + 1; ; next += 1) if (this.isBoundary(next)) return next;
  }
  before(day: Day): Day {
    for (let last = day - 1; ; last -= 1) if (this.isBoundary(last)) return last;
  }
}
