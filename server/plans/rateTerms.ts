import { composeTerms, type RateTerms } from '../../core/offer/composeTerms.ts';
import { fullPrice } from '../../core/pricing/listPrice.ts';
import { checkTerms } from '../../core/terms/check.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Fault } from '../../core/terms/fault.ts';

/** A day in a leap year, to check the terms of a rate before any subscription to it has a start. */
const SAMPLE_START = '2028-01-15';

/** The faults of a rate's terms, with pointers into them. */
export function faultsOfRate(terms: object): Fault[] {
  return faultsOfTerms(composeTerms(terms as RateTerms, { starts: SAMPLE_START }));
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
