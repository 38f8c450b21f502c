import type { Day } from './day.ts';
import { weekdayIndex } from './weekday.ts';

/** Which days are worked, and where a due date goes that is not one of them (rules 2, due date). */
export interface WorkingDays {
  readonly shift: 'next' | 'previous';
  /** Weekend days by their index, 0 = Monday; never all seven. */
  readonly weekend: ReadonlySet<number>;
  readonly holidays: ReadonlySet<Day>;
}

/** Every day is worked. */
export const EVERY_DAY: WorkingDays = { shift: 'next', weekend: new Set(), holidays: new Set() };

/** The same day if it is worked, otherwise the next or previous one that is. */
export function toWorkingDay(day: Day, calendar: WorkingDays): Day {
  const step = calendar.shift === 'next' ? 1 : -1;
  let worked = day;
  while (calendar.weekend.has(weekdayIndex(worked)) || calendar.holidays.has(worked)) worked += step;
  return worked;
}
