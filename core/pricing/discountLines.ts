import type { CompiledDiscount, CompiledTax } from '../agreed/terms.ts';
import { takeDiscount } from './discount.ts';

/** A line before discounts, in minor units. */
export interface OpenLine {
  readonly role: 'recurring' | 'trial' | 'setup' | 'carried' | 'once';
  readonly name: string;
  readonly quantity: number;
  readonly amount: bigint;
  /** The discounts of this line alone that are taken in this payment. */
  readonly own: readonly CompiledDiscount[];
  readonly tax: CompiledTax | null;
}

/** The part of a full price that a payment charges: days of whole. */
export interface Fraction {
  readonly days: number;
  readonly whole: number;
}

export const WHOLE: Fraction = { days: 1, whole: 1 };

/**
 * Rules 5: what is left of the lines of one payment, in minor units. Each line's own discounts are taken first, then
 * those of the document in listed order, each off what the ones before it left. Set-up, trial and carried lines are
 * never discounted.
 *
 * @param taken the discounts of the document that are taken in this payment
 * @param charged the part of a price that it charges, of which amounts off are the same part
 */
export function leftOfLines(
  lines: readonly OpenLine[],
  taken: readonly CompiledDiscount[],
  charged: Fraction,
): readonly bigint[] {
  const left: bigint[] = [];
  for (const { amount, own } of lines) {
    let rest = amount;
    for (const discount of own) rest = takeDiscount(discount, [rest], charged)[0] ?? rest;
    left.push(rest);
  }
  for (const discount of taken) {
    const places: number[] = [];
    const amounts: bigint[] = [];
    for (const [at, line] of lines.entries()) {
      if (!mayApplyTo(discount, line)) continue;
      places.push(at);
      amounts.push(left[at] ?? 0n);
    }
    const after = takeDiscount(discount, amounts, charged);
    for (const [j, at] of places.entries()) left[at] = after[j] ?? 0n;
  }
  return left;
}

/** Whether a discount of the document may apply to a line of a payment. */
export function mayApplyTo(discount: CompiledDiscount, line: Pick<OpenLine, 'role'>): boolean {
  if (line.role !== 'recurring' && line.role !== 'once') return false;
  return discount.to === 'all' || discount.to === line.role;
}

/**
 * The discounts of the document that are taken in a payment: those within their limit that may apply to a line of it.
 * Each is counted.
 * @param uses how often each has been counted; counted on here, in place
 * @returns their indexes
 */
export function takeFrom(
  discounts: readonly CompiledDiscount[],
  lines: readonly OpenLine[],
  uses: number[],
): readonly number[] {
  const taken: number[] = [];
  discounts.forEach((discount, i) => {
    const used = uses[i] ?? 0;
    if (used >= discount.payments || !lines.some((line) => mayApplyTo(discount, line))) return;
    uses[i] = used + 1;
    taken.push(i);
  });
  return taken;
}
