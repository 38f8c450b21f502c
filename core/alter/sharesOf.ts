import { minorDigits } from '../money/currency.ts';
import { formatDecimal, parseDecimal } from '../money/decimal.ts';
import { fullPrice, listPrice } from '../pricing/listPrice.ts';
import type { TermsLine } from '../terms/schema.ts';

/**
 * What an amount off a whole payment takes off each of its lines, in proportion to their prices for a full period: each
 * share rounded down, then one minor unit more for the lines with the largest remainders (rules 5). In the middle of
 * a life a discount can only stand on the lines that a change brings in.
 * @param amount in major units
 * @returns a share for each line, in major units
 * @example sharesOf('30.00', [tenPounds, fiftyPounds], 'GBP') // ['5.00', '25.00']
 */
export function sharesOf(amount: string, lines: readonly TermsLine[], currency: string): string[] {
  const digits = minorDigits(currency);
  const off = parseDecimal(amount, digits);
  const prices = lines.map(({ price, quantity = 1 }) => fullPrice(listPrice(price, quantity, digits, 1), 1));
  const sum = prices.reduce((total, price) => total + price, 0n);
  if (sum === 0n) return lines.map((_, i) => formatDecimal(i === 0 ? off : 0n, digits));
  const floors = prices.map((price) => (off * price) / sum);
  const left = off - floors.reduce((total, share) => total + share, 0n);
  const byRemainder = prices
    .map((price, i) => ({ i, remainder: (off * price) % sum }))
    .sort((a, b) => (a.remainder === b.remainder ? a.i - b.i : a.remainder > b.remainder ? -1 : 1));
  const more = new Set(byRemainder.slice(0, Number(left)).map(({ i }) => i));
  return floors.map((share, i) => formatDecimal(share + (more.has(i) ? 1n : 0n), digits));
}
