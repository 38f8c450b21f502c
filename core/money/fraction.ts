import { roundedQuotient } from './rounding.ts';

/** An exact fraction of whole numbers; the denominator is greater than zero. Not kept in lowest terms. */
export interface Fraction {
  readonly over: bigint;
  readonly under: bigint;
}

export const fraction = (over: bigint, under = 1n): Fraction => ({ over, under });

export const plus = (a: Fraction, b: Fraction): Fraction =>
  fraction(a.over * b.under + b.over * a.under, a.under * b.under);

export const minus = (a: Fraction, b: Fraction): Fraction => plus(a, fraction(-b.over, b.under));

export const times = (a: Fraction, b: Fraction): Fraction => fraction(a.over * b.over, a.under * b.under);

/** The quotient; the divisor is greater than zero. */
export const dividedBy = (a: Fraction, b: Fraction): Fraction => fraction(a.over * b.under, a.under * b.over);

export const lesser = (a: Fraction, b: Fraction): Fraction => (a.over * b.under <= b.over * a.under ? a : b);

/** The nearest whole number, halves away from zero. */
export const rounded = (a: Fraction): bigint => roundedQuotient(a.over, a.under);
