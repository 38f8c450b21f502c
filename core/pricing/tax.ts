import { tenTo } from '../money/decimal.ts';
import { roundedQuotient } from '../money/rounding.ts';
import { TAX_RATE_PLACES, type CompiledTax } from '../agreed/terms.ts';

const HUNDRED_PERCENT = 100n * tenTo(TAX_RATE_PLACES);

/** Net, tax and gross of a sum in minor units. */
export interface Taxed {
  readonly net: bigint;
  readonly tax: bigint;
  readonly total: bigint;
}

/**
 * The tax of one group of lines, rounded once (rules 6).
 * @param sum of the discounted lines, minor units; may be negative
 * @example 10.00 inclusive of 20% holds 1.67; with 20% exclusive it becomes 12.00
 */
export function taxOf(sum: bigint, tax: CompiledTax | null): Taxed {
  if (tax === null) return { net: sum, tax: 0n, total: sum };
  if (tax.mode === 'exclusive') {
    const added = roundedQuotient(sum * tax.rate, HUNDRED_PERCENT);
    return { net: sum, tax: added, total: sum + added };
  }
  const held = roundedQuotient(sum * tax.rate, HUNDRED_PERCENT + tax.rate);
  return { net: sum - held, tax: held, total: sum };
}

/**
 * The taxes of a payment: its lines grouped by rate and mode, each group rounded once and then summed.
 * Rates are compared by value: 8.875 and 8.8750 are one group (rules 10).
 */
export function taxGroups(
  lines: readonly { readonly amount: bigint; readonly tax: CompiledTax | null }[],
): { readonly tax: CompiledTax | null; readonly taxed: Taxed }[] {
  const groups: { tax: CompiledTax | null; sum: bigint }[] = [];
  for (const { amount, tax } of lines) {
    const group = groups.find(
      (other) => other.tax === tax || (other.tax?.rate === tax?.rate && other.tax?.mode === tax?.mode),
    );
    if (group) group.sum += amount;
    else groups.push({ tax, sum: amount });
  }
  return groups.map(({ tax, sum }) => ({ tax, taxed: taxOf(sum, tax) }));
}
