import type { TermsLine } from '../terms/schema.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import type { ChosenExtra } from './extras.ts';
import type { LinePrices } from './prices.ts';

/**
 * The lines that a rate comes to for a subscription that runs already: at its own quantity and own amount, with its
 * extra lines. A line that stays as it is stays with its first price and its discounts, so that it is kept (rules 7);
 * one that changes goes on with what is left of its discounts, and of its first price while the price is the same. First
 * prices are for those who begin: none is given.
 */
export function linesForRunning(
  rate: RateTerms,
  of: {
    /** The lines in force as the terms list them. */
    readonly current: readonly TermsLine[];
    /** The same, with what will be left of their first prices and discounts. */
    readonly left: readonly TermsLine[];
    readonly prices: readonly (LinePrices | null | undefined)[];
    readonly extras: readonly ChosenExtra[];
    /** The extra lines that the lines in force end with. */
    readonly had: readonly ChosenExtra[];
  },
): TermsLine[] {
  const { current, left, prices, extras, had } = of;
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
  return lines.map(({ intro: _intro, discounts: _discounts, ...line }, i) => {
    const hadAt = hadKeys.indexOf(taken[i - own] ?? '');
    const at = i < own ? (i < ownBefore.length ? i : -1) : hadAt < 0 ? -1 : ownBefore.length + hadAt;
    const listed = current[at];
    const samePrice = listed !== undefined && isDeepEqual(listed.price, line.price);
    const isKept =
      samePrice && listed.name === line.name && isDeepEqual(listed.tax ?? null, line.tax ?? null);
    const before = isKept ? listed : left[at];
    if (!before) return line;
    const goesOn = before.intro !== undefined && samePrice;
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
