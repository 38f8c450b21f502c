import { checkTerms } from '../terms/check.ts';
import type { Fault } from '../terms/fault.ts';
import type { TermsPrice } from '../terms/schema.ts';

/** Other prices for the lines of a rate, in their order; null leaves a line's price as it is. */
export type LinePrices = readonly (TermsPrice | null)[];

/**
 * Terms with other prices laid over those of their lines. Prices for lines that are not there are left out, so that
 * a rate that has lost a line can still be sold; a first price of a line goes with the price it belonged to.
 */
export function withPrices<Of extends object>(terms: Of, prices: LinePrices | null): Of {
  const { lines } = terms as { lines?: readonly { readonly price: TermsPrice }[] };
  if (prices === null || !Array.isArray(lines)) return terms;
  const laid = lines.map((line: { readonly price: TermsPrice; readonly intro?: unknown }, i) => {
    const price = prices[i];
    if (!price) return line;
    const { intro: _intro, ...rest } = line;
    return { ...rest, price };
  });
  return { ...terms, lines: laid };
}

/** What is wrong with a price by itself in a currency, with pointers into the price. */
export function faultsOfPrice(price: unknown, currency: string): Fault[] {
  const checked = checkTerms({ currency, starts: '2027-01-01', interval: 'P1M', lines: [{ price }] });
  if (checked.ok) return [];
  return checked.faults.map(({ pointer, detail }) => ({
    pointer: pointer.replace(/^\/lines\/0\/price/, ''),
    detail,
  }));
}
