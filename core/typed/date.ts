import { civilOf, dayOf, formatDay, parseDay, toDay, type Day } from '../dates/day.ts';
import { weekdayIndex, weekdayOnOrAfter } from '../dates/weekday.ts';
import { sayDate } from '../words/date.ts';
import { atNoon, mannerOf, plain, type Manner } from './manner.ts';
import { read, refused, type Reading } from './reading.ts';

export interface DateLimits {
  /** What '+2w' and 'tomorrow' are counted from, and a date without a year follows: `YYYY-MM-DD`. */
  readonly today: string;
  readonly min?: string | undefined;
  readonly max?: string | undefined;
}

/** Days from today that nobody means: a hundred years. */
const FAR = 36_525;
const UNITS: Readonly<Record<string, 'D' | 'W' | 'M' | 'Y'>> = {
  ...{ d: 'D', day: 'D', days: 'D', w: 'W', week: 'W', weeks: 'W' },
  ...{ m: 'M', month: 'M', months: 'M', y: 'Y', year: 'Y', years: 'Y' },
  ...{ t: 'D', tag: 'D', tage: 'D', woche: 'W', wochen: 'W', monat: 'M', monate: 'M' },
  ...{ j: 'D', jour: 'D', jours: 'D', s: 'W', semaine: 'W', semaines: 'W', mois: 'M', an: 'Y', ans: 'Y' },
};
/** In German a J is a year. */
const GERMAN: Readonly<Record<string, 'D' | 'W' | 'M' | 'Y'>> = { j: 'Y', jahr: 'Y', jahre: 'Y' };

/**
 * Reads a date as people type it: '3 dec', 'Mon 4 Jan 2027', '4.1.27', '4/1', '+2w', 'tomorrow', 'fri', and
 * `YYYY-MM-DD`. Figures are read in the order of the language and country. Without a year it is the next such day.
 * @returns `YYYY-MM-DD`
 */
export function readDate(text: string, locale: string, limits: DateLimits): Reading {
  const manner = mannerOf(locale);
  const found = find(text.trim(), manner, toDay(limits.today));
  if (typeof found === 'string') return refused(found);
  const { min, max } = limits;
  if (min !== undefined && found < toDay(min)) return refused(`Not before ${sayDate(min)}.`);
  if (max !== undefined && found > toDay(max)) return refused(`Not after ${sayDate(max)}.`);
  if (Math.abs(found - toDay(limits.today)) > FAR) {
    return refused(`${printDate(formatDay(found), locale)} is more than a hundred years away.`);
  }
  return read(formatDay(found));
}

/**
 * Prints a date with its weekday, as the language writes it; what is none is left as it is.
 * @example printDate('2027-01-04', 'en-GB') // 'Mon 4 Jan 2027'
 */
export function printDate(iso: string, locale: string): string {
  if (parseDay(iso) === null) return iso;
  if (locale.startsWith('en')) return sayDate(iso);
  return new Intl.DateTimeFormat(locale, {
    ...{ weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' },
    timeZone: 'UTC',
  }).format(atNoon(toDay(iso)));
}

function find(text: string, manner: Manner, today: Day): Day | string {
  const iso = parseDay(text);
  if (iso !== null) return iso;
  const words = text
    .split(/[\s\u00a0\u202f,/.-]+/)
    .map(plain)
    .filter((word) => word !== '' && !['le', 'der', 'den', 'am', 'the', 'of', 'on'].includes(word));
  const near = manner.near.get(plain(text)) ?? ENGLISH_NEAR.get(plain(text));
  if (near !== undefined) return today + near;
  const step = /^([+−–-])\s*(\d{1,4})\s*([a-z]*)$/i.exec(text);
  if (step) return stepped(step, manner, today);
  if (words.length === 0) return `Give a day, such as ${example(manner, today)} or +2w.`;
  const [first = ''] = words;
  const weekday = nameIn(manner.weekdays, first) ?? nameIn(ENGLISH.weekdays, first);
  if (weekday !== undefined && words.length === 1) return weekdayOnOrAfter(today + 1, weekday);
  const day = dayIn(weekday === undefined ? words : words.slice(1), manner, today);
  if (day === null) return `“${text}” is not a day: write ${example(manner, today)}, or +2w.`;
  if (weekday !== undefined && weekdayIndex(day) !== weekday) {
    return `That day is a ${longWeekday(day)}: ${printDate(formatDay(day), manner.locale)}.`;
  }
  return day;
}

const ENGLISH = mannerOf('en-GB');
const ENGLISH_NEAR = ENGLISH.near;

function stepped(step: RegExpExecArray, manner: Manner, today: Day): Day | string {
  const letter = (step[3] ?? '').toLowerCase();
  const german = manner.locale.startsWith('de') ? GERMAN[letter] : undefined;
  const unit = letter === '' ? 'D' : (german ?? UNITS[letter]);
  if (unit === undefined) return 'Count in days, weeks, months or years: +10d, +2w, +1m, +1y.';
  const count = Number(step[2]) * (step[1] === '+' ? 1 : -1);
  if (unit === 'D') return today + count;
  if (unit === 'W') return today + 7 * count;
  const { year, month, date } = civilOf(today);
  return onOrBefore(year, month + (unit === 'M' ? count : 12 * count), date);
}

/** A day of a month, or its last where it is shorter; months may run past the year. */
function onOrBefore(year: number, month: number, date: number): Day {
  const y = year + Math.floor((month - 1) / 12);
  const m = ((((month - 1) % 12) + 12) % 12) + 1;
  const next = m === 12 ? dayOf(y + 1, 1, 1) : dayOf(y, m + 1, 1);
  return Math.min(dayOf(y, m, 1) + date - 1, next - 1);
}

/** The day that words and figures name, or null. */
function dayIn(words: readonly string[], manner: Manner, today: Day): Day | null {
  const months = words.map((word) => nameIn(manner.months, word) ?? nameIn(ENGLISH.months, word));
  const at = months.findIndex((month) => month !== undefined);
  const figures = words
    .filter((_, i) => i !== at)
    .map((word) => word.replace(/(?<=\d)(st|nd|rd|th|er)$/, ''));
  if (!figures.every((figure) => /^\d{1,4}$/.test(figure))) return null;
  if (at !== -1) {
    const [date, year] = figures;
    if (figures.length < 1 || figures.length > 2) return null;
    return civil(date, String(months[at]), year, today);
  }
  if (figures.length === 2) {
    const [one, two] = manner.order.filter((part) => part !== 'year').map((part) => part);
    const of = { [one ?? 'day']: figures[0], [two ?? 'month']: figures[1] };
    return civil(of.day, of.month, undefined, today);
  }
  if (figures.length !== 3) return null;
  const order = (figures[0] ?? '').length === 4 ? (['year', 'month', 'day'] as const) : manner.order;
  const of = Object.fromEntries(order.map((part, i) => [part, figures[i]]));
  return civil(of.day, of.month, of.year, today);
}

function civil(
  date: string | undefined,
  month: string | undefined,
  year: string | undefined,
  today: Day,
): Day | null {
  if (!date || !month || date.length > 2 || (year !== undefined && year.length !== 2 && year.length !== 4)) {
    return null;
  }
  const of = (y: number) =>
    parseDay(`${String(y).padStart(4, '0')}-${month.padStart(2, '0')}-${date.padStart(2, '0')}`);
  if (year !== undefined) return of(year.length === 2 ? 2000 + Number(year) : Number(year));
  const now = civilOf(today).year;
  // The next such day; 29 February may be years away.
  for (let y = now; y <= now + 8; y++) {
    const day = of(y);
    if (day !== null && day >= today) return day;
  }
  return null;
}

/** A name, or what it begins with where only one begins so: 'sept', 'thurs'. */
function nameIn(names: ReadonlyMap<string, number>, word: string): number | undefined {
  const exact = names.get(word);
  if (exact !== undefined || word.length < 3 || /\d/.test(word)) return exact;
  const begun = new Set([...names].filter(([name]) => name.startsWith(word)).map(([, at]) => at));
  return begun.size === 1 ? [...begun][0] : undefined;
}

const example = (manner: Manner, today: Day) =>
  printDate(formatDay(today + 7), manner.locale).replace(/^\S+\s/, '');

const longWeekday = (day: Day) =>
  ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'][weekdayIndex(day)];
