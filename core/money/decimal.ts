/**
 * Exact decimals. A decimal string such as "4.50" is read into a bigint of a fixed number of decimals, so
 * that no amount ever passes through binary floating point.
 */

/** The most digits before the point. */
const WHOLE_DIGITS = 18;
const [ZERO, NINE, POINT] = [48, 57, 46];

/** The powers that are asked for again and again: those of minor units, of units and of percentages. */
const POWERS: readonly bigint[] = Array.from({ length: 25 }, (_, exponent) => 10n ** BigInt(exponent));

/** A bigint power of ten. */
export function tenTo(exponent: number): bigint {
  return POWERS[exponent] ?? 10n ** BigInt(exponent);
}

/** How many decimals a decimal string is written with, or null where it is not one ("-1", "1e3", ""). */
export function decimalsOf(text: string): number | null {
  let point = -1;
  for (let i = 0; i < text.length; i += 1) {
    const code = text.charCodeAt(i);
    if (code === POINT && point < 0) point = i;
    else if (code < ZERO || code > NINE) return null;
  }
  const whole = point < 0 ? text.length : point;
  if (whole < 1 || whole > WHOLE_DIGITS) return null;
  const decimals = point < 0 ? 0 : text.length - point - 1;
  return point >= 0 && decimals === 0 ? null : decimals;
}

/**
 * Reads a decimal string as a whole number of 10^-scale: never negative, no sign, exponent or separator.
 * Throws a RangeError where it is no decimal or is written with more decimals than the scale holds.
 * @example parseDecimal('4.5', 2) // 450n
 */
export function parseDecimal(text: string, scale: number): bigint {
  const decimals = decimalsOf(text);
  if (decimals === null || decimals > scale)
    throw new RangeError(`not a decimal of ${scale} places: ${text}`);
  const digits = decimals === 0 ? text : text.slice(0, -decimals - 1) + text.slice(-decimals);
  return decimals === scale ? BigInt(digits) : BigInt(digits) * tenTo(scale - decimals);
}

/**
 * Writes a whole number of 10^-scale with exactly that many decimals, a minus sign before negative ones.
 * @example formatDecimal(-450n, 2) // '-4.50'
 */
export function formatDecimal(value: bigint, scale: number): string {
  const negative = value < 0n;
  const digits = (negative ? -value : value).toString();
  const point = digits.length - scale;
  let written = digits;
  if (point <= 0) written = `0.${'0'.repeat(-point)}${digits}`;
  else if (scale > 0) written = `${digits.slice(0, point)}.${digits.slice(point)}`;
  return negative ? `-${written}` : written;
}
