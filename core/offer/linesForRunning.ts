import type { TermsLine } from '../terms/schema.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import type { ChosenExtra } from './extras.ts';
import type { LinePrices } from './prices.ts';

/**
 * The lines that a rate comes to for a subscription that runs already: at its own quantity and own amount, with its
 * extra lines, and with what is left of the discounts it has. First prices are
 * for those who begin: none is given, and what is left of one goes on while the price is the same.
 * @param current the lines in force, with what is left of them
 */
export function linesForRunning(
  rate: RateTerms,
  of: {
    readonly current: readonly TermsLine[];
    readonly prices: readonly (LinePrices | null | undefined)[];
    readonly extras: readonly ChosenExtra[];
    /** The extra lines that the lines in force end with. */
    readonly had: readonly ChosenExtra[];
  },
): TermsLine[] {
  const { current, prices, extras, had } = of;
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
  const taken = recurringKeys(extras);
  const tail = recurringNames(had);
  const stand = tail.every((name, i) => current[current.length - tail.length + i]?.name === name);
  const hadKeys = stand ? recurringKeys(had) : [];
  const own = lines.length - taken.length;
  const ownBefore = current.slice(0, current.length - hadKeys.length);
  const extrasBefore = current.slice(ownBefore.length);
  return lines.map(({ intro: _intro, discounts: _discounts, ...line }, i) => {
    const before = i < own ? ownBefore[i] : extrasBefore[hadKeys.indexOf(taken[i - own] ?? '')];
    if (!before) return line;
    // What is left of a first price goes on where the price that it stands for is the same.
    const goesOn = before.intro !== undefined && isDeepEqual(before.price, line.price);
    return {
      ...line,
      ...(goesOn ? { intro: before.intro } : {}),
      ...(before.discounts ? { discounts: before.discounts } : {}),
    };
  });
}

const recurringKeys = (extras: readonly ChosenExtra[]) =>
  extras.filter(({ extra }) => extra.when === 'recurring').map(({ extra }) => extra.key);

const recurringNames = (extras: readonly ChosenExtra[]) =>
  extras.filter(({ extra }) => extra.when === 'recurring').map(({ extra }) => extra.name);

const isDeepEqual = (a: unknown, b: unknown) => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));

/** A value with its members in one order, so that two of the same content are written alike. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (value === null || typeof value !== 'object') return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, member]) => [name, sorted(member)]),
  );
}
