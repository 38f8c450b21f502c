import { formatDay, toDay } from '../dates/day.ts';
import { addDuration, parseDuration } from '../dates/duration.ts';
import type { OneOffTerms, RecurringTerms, Terms, TermsDiscount, TermsLine } from '../terms/schema.ts';
import { onceOf, recurringLineOf, type ChosenExtra } from './extras.ts';
import { ownExtras, withOwnTerms, type OwnTerms } from './ownTerms.ts';
import { withPrices, type LinePrices } from './prices.ts';

type Once = Omit<NonNullable<Terms['once']>[number], 'date'> & { readonly date?: string };

/**
 * The terms of a rate: those of a subscription without the day it starts on. A once amount without a date falls
 * on the day of enrolment. A rate without lines is a one-off sale.
 */
export type RateTerms =
  | (Omit<RecurringTerms, 'starts' | 'changes' | 'once'> & { readonly once?: readonly Once[] })
  | (Omit<OneOffTerms, 'starts' | 'once'> & { readonly once: readonly Once[] });

/** When what recurs begins, where that is not the day of enrolment: a length after it, or on a date. */
export type RecurringStart = { readonly after: string } | { readonly on: string };

/** What is chosen of a rate at enrolment. */
export interface RateChoice {
  /** The day of enrolment: amounts once without a date fall on it. */
  readonly starts: string;
  /** How many of the first line. */
  readonly quantity?: number | undefined;
  /** The customer's own amount, where the first line leaves it to them; major units. */
  readonly amount?: string | undefined;
  /** The last day served, of this subscription alone: its last period is charged for its days. */
  readonly lastDay?: string | undefined;
  readonly recurringStart?: RecurringStart | null | undefined;
  /** Other prices of the rate's lines, each laid over the ones before: a variant's, then a rate card's. */
  readonly prices?: readonly (LinePrices | null | undefined)[] | undefined;
  readonly extras?: readonly ChosenExtra[] | undefined;
  /** Lines of other plans (`planLines.ts`), after those of one's own. */
  readonly beside?: readonly ChosenExtra[] | undefined;
  /** What codes take off, after the rate's own discounts. */
  readonly discounts?: readonly TermsDiscount[] | undefined;
  /** What is agreed with this customer alone. */
  readonly own?: OwnTerms | undefined;
}

/**
 * The terms that a rate and a choice come to: the one way in which form, enrolment and import make them. They are
 * to be checked before they are used.
 * @example
 * composeTerms(monthly, { starts: '2027-01-31', quantity: 3 })
 */
export function composeTerms(rate: RateTerms, choice: RateChoice): Terms {
  const {
    starts,
    lastDay,
    quantity,
    amount,
    recurringStart,
    prices = [],
    discounts = [],
    own: alone = {},
  } = choice;
  const extras = [...(choice.extras ?? []), ...ownExtras(alone, rate.currency), ...(choice.beside ?? [])];
  const priced = prices.reduce<RateTerms>((terms, laid) => withPrices(terms, laid ?? null), rate);
  const own = Array.isArray(priced.once) ? priced.once.map((entry) => ({ date: starts, ...entry })) : [];
  const sold = extras.flatMap((extra) => onceOf(extra, rate.currency, starts));
  const terms = { ...priced, starts: startOfRecurring(starts, recurringStart) } as Terms & {
    lines?: TermsLine[];
  };
  if (own.length + sold.length > 0) terms.once = [...own, ...sold];
  if (Array.isArray(terms.lines)) {
    const lines = terms.lines.map((line, i) => (i === 0 ? chosenLine(line, quantity, amount) : line));
    terms.lines = [...lines, ...extras.flatMap(recurringLineOf)];
    if (lastDay !== undefined) Object.assign(terms, { ends: { until: lastDay }, endStub: 'prorate' });
  } else terms.starts = starts;
  if (discounts.length > 0) terms.discounts = [...(terms.discounts ?? []), ...discounts];
  return withOwnTerms(terms, alone);
}

function chosenLine(line: TermsLine, quantity: number | undefined, amount: string | undefined): TermsLine {
  const counted = quantity === undefined ? line : { ...line, quantity };
  if (amount === undefined || counted.price.scheme !== 'chosen') return counted;
  return { ...counted, price: { ...counted.price, amount } };
}

/** The day on which what recurs begins for somebody who enrols on a day. A date that has passed is that day. */
export function startOfRecurring(enrolledOn: string, later: RecurringStart | null | undefined): string {
  if (!later) return enrolledOn;
  if ('on' in later) return later.on > enrolledOn ? later.on : enrolledOn;
  const length = parseDuration(later.after);
  return length ? formatDay(addDuration(toDay(enrolledOn), length)) : enrolledOn;
}
