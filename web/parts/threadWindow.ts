import { formatDay, toDay } from '../../core/dates/day.ts';

/** The stretch of time that threads in lists show: so many days back and ahead of the business day. */
export function threadWindow(today: string, back = 185, ahead = 95): { from: string; to: string } {
  return { from: formatDay(toDay(today) - back), to: formatDay(toDay(today) + ahead) };
}
