import { exponentOf } from '../../core/money/currency.ts';
import { decimalsOf, formatDecimal, parseDecimal } from '../../core/money/decimal.ts';

/** A typed amount in minor units; null where it is none, or has more decimals than its currency. */
export function minorOf(typed: string, currency: string): bigint | null {
  const digits = exponentOf(currency) ?? 2;
  const decimals = decimalsOf(typed);
  return decimals === null || decimals > digits ? null : parseDecimal(typed, digits);
}

/** An amount in minor units as it is typed. */
export const typedOf = (minor: string | bigint, currency: string) =>
  formatDecimal(BigInt(minor), exponentOf(currency) ?? 2);
