import { fullPrice } from '../../core/pricing/listPrice.ts';
import { checkTerms } from '../../core/terms/check.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Fault } from '../../core/terms/fault.ts';
import type { OneOffTerms, RecurringTerms, Terms } from '../../core/terms/schema.ts';

type Once = Omit<NonNullable<Terms['once']>[number], 'date'> & { readonly date?: string };

/**
 * The terms of a rate: those of a subscription without the day it starts on. A once amount without a date falls
 * on that day. A rate without lines is a one-off sale.
 */
export type RateTerms =
  | (Omit<RecurringTerms, 'starts' | 'changes' | 'once'> & { readonly once?: readonly Once[] })
  | (Omit<OneOffTerms, 'starts' | 'once'> & { readonly once: readonly Once[] });

/** What a customer chooses of a rate: the day of start, and how many of its first line. */
export interface RateChoice {
  readonly starts: string;
  readonly quantity?: number | undefined;
}

/** A day in a leap year, to check the terms of a rate before any subscription to it has a start. */
const SAMPLE_START = '2028-01-15';

/** The faults of a rate's terms, with pointers into them. */
export function faultsOfRate(terms: object): Fault[] {
  return faultsOfTerms(termsFromRate(terms as RateTerms, { starts: SAMPLE_START }));
}

/** Amounts of a line above this, in minor units, are refused: beside it every sum fits the database's bigint. */
const LARGEST_PRICE = 10n ** 15n;

/** The faults of terms that are to be stored: those of the calculation, and prices too large to keep books of. */
export function faultsOfTerms(document: unknown): Fault[] {
  const checked = checkTerms(document);
  if (!checked.ok) return checked.faults;
  const { recurring, once } = compileTerms(checked.terms);
  const detail = 'This price is too large to be charged; check the amount and the quantity.';
  const lines = (recurring?.lines ?? []).flatMap(({ list }, i) =>
    fullPrice(list, 1) > LARGEST_PRICE ? [{ pointer: `/lines/${i}/price`, detail }] : [],
  );
  return [
    ...lines,
    ...once.flatMap(({ amount }) => (amount > LARGEST_PRICE ? [{ pointer: '/once', detail }] : [])),
  ];
}

/** The terms that a rate and a choice come to; to be checked before they are used. */
export function termsFromRate(rate: RateTerms, { starts, quantity }: RateChoice): Terms {
  const terms = { ...rate, starts } as Terms & { lines?: RecurringTerms['lines'] };
  if (Array.isArray(rate.once)) terms.once = rate.once.map((entry) => ({ date: starts, ...entry }));
  if (quantity !== undefined && Array.isArray(terms.lines)) {
    terms.lines = terms.lines.map((line, i) => (i === 0 ? { ...line, quantity } : line));
  }
  return terms;
}
