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
    let group = groups[0];
    if (group !== undefined && !isSameTax(group.tax, tax))
      group = groups.find((other) => isSameTax(other.tax, tax));
    if (group) group.sum += amount;
    else groups.push({ tax, sum: amount });
  }
  return groups.map(({ tax, sum }) => ({ tax, taxed: taxOf(sum, tax) }));
}

/** Whether two taxes are of one group: of the same rate by value, and of the same mode (rules 6). */
export function isSameTax(a: CompiledTax | null, b: CompiledTax | null): boolean {
  return a === b || (a !== null && b !== null && a.rate === b.rate && a.mode === b.mode);
}
