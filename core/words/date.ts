import { civilOf, toDay } from '../dates/day.ts';
import { weekdayIndex } from '../dates/weekday.ts';

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/**
 * A date in words.
 * @param iso `YYYY-MM-DD`
 * @example sayDate('2027-01-04') // 'Mon 4 Jan 2027'
 */
export function sayDate(iso: string): string {
  const { year } = civilOf(toDay(iso));
  return `${sayShortDate(iso)} ${year}`;
}

/** The same without the year: 'Mon 4 Jan'. */
export function sayShortDate(iso: string): string {
  const day = toDay(iso);
  return `${DAYS[weekdayIndex(day)]} ${sayDayAndMonth(iso)}`;
}

/** '4 Jan'. */
export function sayDayAndMonth(iso: string): string {
  const { month, date } = civilOf(toDay(iso));
  return `${date} ${MONTHS[month - 1]}`;
}

/** '4 Jan 2027'. */
export function sayDayMonthYear(iso: string): string {
  return `${sayDayAndMonth(iso)} ${civilOf(toDay(iso)).year}`;
}
