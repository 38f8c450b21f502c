/**
 * A civil day, counted in whole days since 1970-01-01 (which is day 0). It has no time and no zone:
 * adding 1 is always "the next day" and a difference is always a number of days.
 */
export type Day = number;

/** The first and the last day the calculation accepts (rules 2: years 1 to 9999). */
export const FIRST_DAY: Day = dayOf(1, 1, 1);
export const LAST_DAY: Day = dayOf(9999, 12, 31);

/**
 * The day of a year, month (1..12) and day of month, in the proleptic Gregorian calendar of ISO 8601.
 *
 * Counts in 400-year eras of 146,097 days whose years begin in March, so that the leap day is the last.
 * @example dayOf(1970, 1, 2) // 1
 */
export function dayOf(year: number, month: number, date: number): Day {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + date - 1;
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  return era * 146097 + dayOfEra - 719468;
}

/** The year, month (1..12) and day of month (1..31) of a day: the inverse of {@link dayOf}. */
export function civilOf(day: Day): { year: number; month: number; date: number } {
  const z = day + 719468;
  const era = Math.floor(z / 146097);
  const dayOfEra = z - era * 146097;
  const yearOfEra = Math.floor(
    (dayOfEra - Math.floor(dayOfEra / 1460) + Math.floor(dayOfEra / 36524) - Math.floor(dayOfEra / 146096)) /
      365,
  );
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const marchMonth = Math.floor((5 * dayOfYear + 2) / 153);
  const date = dayOfYear - Math.floor((153 * marchMonth + 2) / 5) + 1;
  const month = marchMonth < 10 ? marchMonth + 3 : marchMonth - 9;
  return { year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, date };
}

const HYPHEN = 45;

/** The number that some characters of a text write, or NaN where one of them is no digit. */
function digits(text: string, from: number, to: number): number {
  let number = 0;
  for (let i = from; i < to; i += 1) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return NaN;
    number = number * 10 + digit;
  }
  return number;
}

/**
 * Reads an ISO 8601 calendar date, `YYYY-MM-DD`, or gives null where it is none (30 February, year 0).
 * @example parseDay('1970-01-02') // 1
 */
export function parseDay(text: string): Day | null {
  if (text.length !== 10 || text.charCodeAt(4) !== HYPHEN || text.charCodeAt(7) !== HYPHEN) return null;
  const year = digits(text, 0, 4);
  const month = digits(text, 5, 7);
  const date = digits(text, 8, 10);
  if (!(year >= 1 && month >= 1 && month <= 12 && date >= 1 && date <= 31)) return null;
  if (date > 28 && date > dayOf(year, month + 1, 1) - dayOf(year, month, 1)) return null;
  return dayOf(year, month, date);
}

/** Reads a date that is known to be valid; throws a RangeError where it is not. */
export function toDay(text: string): Day {
  const day = parseDay(text);
  if (day === null) throw new RangeError(`not a date of the years 1 to 9999: ${text}`);
  return day;
}

const TWO_DIGITS = Array.from({ length: 32 }, (_, n) => String(n).padStart(2, '0'));

/**
 * Writes a day as an ISO 8601 calendar date.
 * @example formatDay(0) // '1970-01-01'
 */
export function formatDay(day: Day): string {
  const { year, month, date } = civilOf(day);
  const y = year >= 1000 ? String(year) : String(year).padStart(4, '0');
  return `${y}-${TWO_DIGITS[month]}-${TWO_DIGITS[date]}`;
}
