import { parseDecimal } from '../../core/money/decimal.ts';
import type { Line, Tax } from './terms.ts';

export const DIGITS = 2;
export const minor = (text: string | undefined) => parseDecimal(text ?? '0', DIGITS);

/** Half away from zero, by whole numbers alone. */
export function nearest(over: bigint, under: bigint): bigint {
  const doubled = (over < 0n ? -over : over) * 2n + under;
  const size = doubled / (under * 2n);
  return over < 0n ? -size : size;
}
export const part = (amount: bigint, days: number, whole: number) =>
  nearest(amount * BigInt(days), BigInt(whole));

/** An amount less discounts of a line, each off what the ones before it left. */
export function less(
  amount: bigint,
  discounts: readonly { percent?: string; amount?: string }[],
  days: number,
  whole: number,
): bigint {
  return discounts.reduce((left, { percent, amount: off }) => {
    if (percent !== undefined) return left - nearest(left * parseDecimal(percent, 12), 10n ** 14n);
    const taken = part(minor(off), days, whole);
    return taken < left ? left - taken : 0n;
  }, amount);
}

/** A line but for its quantity, written so that the same value is written the same. */
export function written(line: Line, tax: Tax | null): string {
  const number = (text: string | undefined) => (text === undefined ? '' : String(parseDecimal(text, 12)));
  const { name, price, intro, discounts = [] } = line;
  return JSON.stringify([
    name ?? null,
    [price.scheme, number(price.amount), number(price.total)],
    intro ? [intro.payments, number(intro.amount)] : null,
    discounts.map(({ percent, amount, payments }) => [number(percent), number(amount), payments ?? null]),
    tax ? [number(tax.rate), tax.mode] : null,
  ]);
}
