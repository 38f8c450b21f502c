import { shareAmount } from '../money/sharing.ts';
import { tenTo } from '../money/decimal.ts';
import { roundedQuotient } from '../money/rounding.ts';
import { PERCENT_PLACES, type CompiledDiscount } from '../agreed/terms.ts';

const HUNDRED_PERCENT = 100n * tenTo(PERCENT_PLACES);

/**
 * Takes one discount off the amounts it applies to and gives what is left of each (rules 5): a percentage
 * rounded line by line, an amount shared over all of them in proportion to what is left of each.
 * @param amounts minor units, none negative
 * @param charged the part of a full price that the payment charges: of an amount off it takes the same part, unless
 *   the discount goes to `once` amounts
 * @example 1.00 off three times 10.00 leaves 9.66, 9.67, 9.67
 */
export function takeDiscount(
  discount: CompiledDiscount,
  amounts: readonly bigint[],
  charged: { readonly days: number; readonly whole: number } = { days: 1, whole: 1 },
): bigint[] {
  const { percent } = discount;
  if (percent !== null) {
    return amounts.map((amount) => amount - roundedQuotient(amount * percent, HUNDRED_PERCENT));
  }
  const left = amounts.reduce((sum, amount) => sum + amount, 0n);
  const whole = discount.amount ?? 0n;
  const isPart = charged.days !== charged.whole && discount.to !== 'once';
  const off = isPart ? roundedQuotient(whole * BigInt(charged.days), BigInt(charged.whole)) : whole;
  const shares = shareAmount(off < left ? off : left, amounts);
  return amounts.map((amount, i) => amount - (shares[i] ?? 0n));
}
