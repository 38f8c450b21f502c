import { toDay } from '../dates/day.ts';
import { minorDigits } from '../money/currency.ts';
import { formatDecimal } from '../money/decimal.ts';
import { atNoon, mannerOf } from '../typed/manner.ts';
import { sayAmount, sayFigure } from '../words/amount.ts';
import { sayDate, sayDayMonthYear } from '../words/date.ts';
import type { PageLanguage } from '../words/signUp/languages.ts';

/** How somebody is written to. */
export interface LetterManner {
  readonly language: PageLanguage;
  /** A BCP 47 tag: their language by the customs of their country. */
  readonly locale: string;
}

/** In English dates and amounts are written as on documents and screens, but where the month comes before the day. */
export function isHouse({ language, locale }: LetterManner): boolean {
  if (language !== 'en') return false;
  const { order, decimal } = mannerOf(locale);
  return decimal === '.' && order[0] === 'day';
}

/** An amount by the customs of a locale: every digit of it, and as many decimals as its currency has. */
export function amountIn(minor: bigint, currency: string, manner: LetterManner): string {
  if (isHouse(manner)) return sayAmount(minor, currency);
  const digits = minorDigits(currency);
  const format = new Intl.NumberFormat(manner.locale, {
    ...{ style: 'currency', currency, minimumFractionDigits: digits, maximumFractionDigits: digits },
  });
  // As a text, so that no digit is lost that a number does not hold.
  return format.format(formatDecimal(minor, digits) as unknown as number);
}

const noon = (iso: string) => atNoon(toDay(iso));
const DAY = { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' } as const;

/** The same without its currency, where that stands above. */
export function figureIn(minor: bigint, currency: string, manner: LetterManner): string {
  if (isHouse(manner)) return sayFigure(minor, currency);
  const digits = minorDigits(currency);
  const format = new Intl.NumberFormat(manner.locale, {
    ...{ minimumFractionDigits: digits, maximumFractionDigits: digits },
  });
  return format.format(formatDecimal(minor, digits) as unknown as number);
}

/** A day with its weekday. */
export function dateIn(iso: string, manner: LetterManner): string {
  if (isHouse(manner)) return sayDate(iso);
  return new Intl.DateTimeFormat(manner.locale, { ...DAY, weekday: 'short' }).format(noon(iso));
}

/** A day without it. */
export function dayIn(iso: string, manner: LetterManner): string {
  if (isHouse(manner)) return sayDayMonthYear(iso);
  return new Intl.DateTimeFormat(manner.locale, DAY).format(noon(iso));
}
