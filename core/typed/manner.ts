import { dayOf, type Day } from '../dates/day.ts';

/**
 * How a language and country write figures and dates: what a field has to understand, and prints back.
 * Taken from the Unicode data that JavaScript carries, so that no list of languages is kept here.
 */
export interface Manner {
  /** A BCP 47 tag, such as `en-GB`. */
  readonly locale: string;
  /** The language in its own country's words, for what is refused by name: 'English (United Kingdom)'. */
  readonly name: string;
  readonly decimal: string;
  /** What thousands are grouped by when they are printed. */
  readonly group: string;
  /** The order of day, month and year in figures. */
  readonly order: readonly ('day' | 'month' | 'year')[];
  /** Names of months, long and short, in lower case without points; each gives its number, 1 to 12. */
  readonly months: ReadonlyMap<string, number>;
  /** Names of weekdays in the same way; each gives 0 for Monday to 6 for Sunday. */
  readonly weekdays: ReadonlyMap<string, number>;
  /** Yesterday, today and tomorrow, and what they are from today. */
  readonly near: ReadonlyMap<string, number>;
}

const kept = new Map<string, Manner>();

/**
 * The manner of a locale.
 * @param locale a BCP 47 tag; throws a RangeError where it is none
 * @example mannerOf('de-AT').decimal // ','
 */
export function mannerOf(locale: string): Manner {
  const known = kept.get(locale);
  if (known) return known;
  const manner = readManner(locale);
  kept.set(locale, manner);
  return manner;
}

/**
 * The locale of a business: the language it writes in, by the order and the separators of its own country.
 * @param country ISO 3166; empty: unknown, taken as British for English
 * @example localeOf('en', 'IE') // 'en-IE'
 */
export function localeOf(language: string, country: string): string {
  return `${language}-${country || (language === 'en' ? 'GB' : language.toUpperCase())}`;
}

function readManner(locale: string): Manner {
  const figures = new Intl.NumberFormat(locale, { useGrouping: 'always', minimumFractionDigits: 1 });
  const figure = (type: string, otherwise: string) =>
    figures.formatToParts(1234567.5).find((part) => part.type === type)?.value ?? otherwise;
  const order = new Intl.DateTimeFormat(locale, { day: '2-digit', month: '2-digit', year: 'numeric' })
    .formatToParts(0)
    .flatMap(({ type }) => (type === 'day' || type === 'month' || type === 'year' ? [type] : []));
  const relative = new Intl.RelativeTimeFormat(locale, { numeric: 'auto' });
  return {
    locale,
    name: new Intl.DisplayNames('en', { type: 'language' }).of(locale.split('-')[0] ?? locale) ?? locale,
    decimal: figure('decimal', '.'),
    group: figure('group', ','),
    order,
    months: named(locale, 12, 'month', (month) => atNoon(dayOf(2027, month + 1, 1)), 1),
    // 4 January 2027 is a Monday.
    weekdays: named(locale, 7, 'weekday', (day) => atNoon(dayOf(2027, 1, 4) + day), 0),
    near: new Map([-1, 0, 1].map((days) => [plain(relative.format(days, 'day')), days])),
  };
}

/** A civil day as the instant that formats of UTC print it by: milliseconds. */
export const atNoon = (day: Day) => (day + 0.5) * 86_400_000;

/** Names as they are compared: in lower case, without points or the marks above letters. */
export function plain(word: string): string {
  return word
    .normalize('NFD')
    .replace(/[\p{M}.]/gu, '')
    .replaceAll('’', "'")
    .trim()
    .toLowerCase();
}

function named(
  locale: string,
  count: number,
  what: 'month' | 'weekday',
  at: (index: number) => number,
  first: number,
): Map<string, number> {
  const names = new Map<string, number>();
  const clash = new Set<string>();
  for (const style of ['long', 'short'] as const) {
    for (const also of [{}, { day: 'numeric' }] as const) {
      const format = new Intl.DateTimeFormat(locale, { [what]: style, ...also, timeZone: 'UTC' });
      for (let index = 0; index < count; index++) {
        const name = plain(format.formatToParts(at(index)).find(({ type }) => type === what)?.value ?? '');
        if (name === '') continue;
        if (names.has(name) && names.get(name) !== index + first) clash.add(name);
        names.set(name, index + first);
      }
    }
  }
  for (const name of clash) names.delete(name);
  return names;
}
