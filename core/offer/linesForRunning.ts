import type { TermsLine } from '../terms/schema.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import type { ChosenExtra } from './extras.ts';
import type { LinePrices } from './prices.ts';

/**
 * The lines that a rate comes to for a subscription that runs already: at its own quantity and own amount, with its
 * extra lines, and with what is left of the discounts it has. First prices are for those who begin, so none is given.
 * @param current the lines in force, with what is left of them
 */
export function linesForRunning(
  rate: RateTerms,
  of: {
    readonly current: readonly TermsLine[];
    readonly prices: readonly (LinePrices | null | undefined)[];
    readonly extras: readonly ChosenExtra[];
  },
): TermsLine[] {
  const { current, prices, extras } = of;
  const first = current[0];
  const amount = first?.price.scheme === 'chosen' ? first.price.amount : undefined;
  const composed = composeTerms(rate, {
    starts: '2000-01-01',
    quantity: first?.quantity,
    amount,
    prices,
    extras,
  });
  const lines = 'lines' in composed ? composed.lines : [];
  const recurring = extras.filter(({ extra }) => extra.when === 'recurring').length;
  return lines.map(({ intro: _intro, discounts: _discounts, ...line }, i) => {
    const fromEnd = lines.length - i;
    const before = fromEnd <= recurring ? current[current.length - fromEnd] : current[i];
    return { ...line, ...(before?.discounts ? { discounts: before.discounts } : {}) };
  });
}
