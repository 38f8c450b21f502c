import { fullPrice } from '../pricing/listPrice.ts';
import { compileTerms } from '../terms/compile.ts';
import type { TermsLine } from '../terms/schema.ts';

/** One recurring line before and after, for one full period, minor units; null where it is not there. */
export interface PriceBeside {
  readonly name: string;
  readonly before: bigint | null;
  readonly after: bigint | null;
}

/** The list price of each line for a full period, before and after, side by side. */
export function pricesBeside(
  before: readonly TermsLine[],
  after: readonly TermsLine[],
  currency: string,
): PriceBeside[] {
  const priceOf = (line: TermsLine | undefined) => {
    if (!line) return null;
    const compiled = compileTerms({ currency, starts: '2027-01-01', interval: 'P1M', lines: [line] });
    const list = compiled.recurring?.lines[0]?.list;
    return list ? fullPrice(list, 1) : null;
  };
  return Array.from({ length: Math.max(before.length, after.length) }, (_, i) => {
    const { name = '', quantity = 1 } = after[i] ?? before[i] ?? {};
    return {
      // What stands beside it is the price of all of them together.
      name: quantity === 1 ? name : `${name}, ${quantity} in all`,
      before: priceOf(before[i]),
      after: priceOf(after[i]),
    };
  });
}
