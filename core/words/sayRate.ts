import { parseDuration, type Duration } from '../dates/duration.ts';
import { minorDigits } from '../money/currency.ts';
import { parseDecimal } from '../money/decimal.ts';
import type { TermsAnchor, TermsPrice } from '../terms/schema.ts';
import { sayAmount } from './amount.ts';
import { sayTaxBeside, sayTaxed, type TaxSaid } from './sayTax.ts';

/** The members of terms that a rate is read back from. */
export interface SayableTerms {
  readonly currency: string;
  readonly lines?: readonly { readonly price: TermsPrice }[];
  readonly interval?: string;
  readonly on?: TermsAnchor;
  readonly setup?: { readonly amount: string };
  readonly trial?: { readonly length: string; readonly amount?: string };
  readonly ends?: { readonly after?: number; readonly until?: string };
  readonly once?: readonly { readonly amount: string }[];
}

const UNITS = { D: 'day', W: 'week', M: 'month', Y: 'year' } as const;

/** An interval in words, never with "bi-": 'every month', 'every 2 weeks'. */
export function sayInterval({ count, unit }: Duration): string {
  return count === 1 ? `every ${UNITS[unit]}` : `every ${count} ${UNITS[unit]}s`;
}

/** A length in words: '14 days'. */
export function sayLength(text: string): string {
  const duration = parseDuration(text);
  return duration ? `${duration.count} ${UNITS[duration.unit]}${duration.count === 1 ? '' : 's'}` : text;
}

const WEEKDAY_NAMES = {
  mon: 'Monday',
  tue: 'Tuesday',
  wed: 'Wednesday',
  thu: 'Thursday',
  fri: 'Friday',
  sat: 'Saturday',
  sun: 'Sunday',
} as const;
const MONTH_NAMES = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const NTH = { 1: 'first', 2: 'second', 3: 'third', 4: 'fourth', last: 'last' } as const;

/** An anchor in words: 'on the 15th', 'on the first Monday'. */
export function sayAnchor(on: TermsAnchor): string {
  if ('month' in on) return `on ${on.day} ${MONTH_NAMES[on.month - 1]}`;
  if ('nth' in on) return `on the ${NTH[on.nth as keyof typeof NTH]} ${WEEKDAY_NAMES[on.weekday]}`;
  if ('day' in on) return on.day === 'last' ? 'on the last day' : `on the ${ordinal(on.day)}`;
  if ('days' in on) return `on the ${ordinal(on.days[0])} and ${ordinal(on.days[1])}`;
  return `on ${WEEKDAY_NAMES[on.weekday]}s`;
}

function ordinal(day: number): string {
  const last = day % 10;
  const ending =
    day >= 11 && day <= 13 ? 'th' : last === 1 ? 'st' : last === 2 ? 'nd' : last === 3 ? 'rd' : 'th';
  return `${day}${ending}`;
}

/**
 * A rate in one line of plain words, as lists show it.
 * @param tax what is paid on it, to be named beside it
 * @example '£12.00 every month on the 1st, after a trial of 14 days'
 */
export function sayRate(terms: SayableTerms, tax?: TaxSaid): string {
  if (!terms.lines) {
    const sum = (terms.once ?? []).reduce((total, { amount }) => total + minor(amount, terms.currency), 0n);
    return `${sayTaxed(sum, terms.currency, tax)} once`;
  }
  const prices = sayPrices(terms, tax);
  const interval = parseDuration(terms.interval ?? '');
  const parts = [interval ? `${prices} ${sayInterval(interval)}` : prices];
  if (terms.on) parts.push(sayAnchor(terms.on));
  const tail = [
    terms.trial ? `after a trial of ${sayLength(terms.trial.length)}` : '',
    terms.ends?.after ? `${terms.ends.after} times` : '',
    terms.setup
      ? `with a set-up fee of ${sayTaxed(minor(terms.setup.amount, terms.currency), terms.currency, tax)}`
      : '',
  ].filter(Boolean);
  return [parts.join(' '), ...tail].join(', ');
}

/** The prices of all lines, with their tax: as one sum where each is one amount. */
function sayPrices({ lines = [], currency }: SayableTerms, tax: TaxSaid): string {
  const [only] = lines;
  if (lines.length === 1 && only?.price.scheme === 'flat')
    return sayTaxed(minor(only.price.amount, currency), currency, tax);
  return sayTaxBeside(lines.map(({ price }) => sayPrice(price, currency)).join(' + '), tax);
}

/** A price in words: '£4.50 each'. */
export function sayPrice(price: TermsPrice, currency: string): string {
  switch (price.scheme) {
    case 'flat':
      return sayAmount(minor(price.amount, currency), currency);
    case 'each':
      return `${unit(price.amount, currency)} each`;
    case 'each-tier':
      return `from ${unit(lowest(price.tiers), currency)} each, each at its own tier`;
    case 'reached-tier':
      return `from ${unit(lowest(price.tiers), currency)} each, all at the tier reached`;
    case 'step':
      return `from ${sayAmount(minor(price.tiers[0]?.amount ?? '0', currency), currency)} by step`;
    case 'pack':
      return `${sayAmount(minor(price.amount, currency), currency)} for each ${price.size}`;
    case 'chosen':
      return `own amount, ${sayAmount(minor(price.amount, currency), currency)} suggested`;
    case 'instalments':
      return `${sayAmount(minor(price.total, currency), currency)} in instalments`;
  }
}

const minor = (text: string, currency: string) => parseDecimal(text, minorDigits(currency));

/** A unit amount may have more decimals than the currency; then it is shown as it was typed. */
function unit(text: string, currency: string): string {
  const decimals = text.split('.')[1]?.length ?? 0;
  return decimals <= minorDigits(currency)
    ? sayAmount(minor(text, currency), currency)
    : `${currency} ${text}`;
}

function lowest(tiers: readonly { readonly each: string }[]): string {
  const units = tiers.map((tier) => tier.each);
  return units.reduce(
    (least, text) => (parseDecimal(text, 12) < parseDecimal(least, 12) ? text : least),
    units[0] ?? '0',
  );
}
