/**
 * Exact decimals. A decimal string such as "4.50" is read into a bigint of a fixed number of decimals, so
 * that no amount ever passes through binary floating point.
 */

const DECIMAL = /^(\d{1,18})(?:\.(\d+))?$/;

/** A bigint power of ten. */
export function tenTo(exponent: number): bigint {
  return 10n ** BigInt(exponent);
}

/** How many decimals a decimal string is written with, or null where it is not one ("-1", "1e3", ""). */
export function decimalsOf(text: string): number | null {
  const match = DECIMAL.exec(text);
  return match ? (match[2]?.length ?? 0) : null;
}

/**
 * Reads a decimal string as a whole number of 10^-scale: never negative, no sign, exponent or separator.
 * Throws a RangeError where it is no decimal or is written with more decimals than the scale holds.
 * @example parseDecimal('4.5', 2) // 450n
 */
export function parseDecimal(text: string, scale: number): bigint {
  const match = DECIMAL.exec(text);
  const fraction = match?.[2] ?? '';
  if (!match || fraction.length > scale) throw new RangeError(`not a decimal of ${scale} places: ${text}`);
  return BigInt(`${match[1]}${fraction.padEnd(scale, '0')}`);
}

/**
 * Writes a whole number of 10^-scale with exactly that many decimals, a minus sign before negative ones.
 * @example formatDecimal(-450n, 2) // '-4.50'
 */
export function formatDecimal(value: bigint, scale: number): string {
  const negative = value < 0n;
  const digits = (negative ? -value : value).toString().padStart(scale + 1, '0');
  const whole = scale === 0 ? digits : `${digits.slice(0, -scale)}.${digits.slice(-scale)}`;
  return negative ? `-${whole}` : whole;
}
