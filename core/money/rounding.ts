/**
 * Divides and rounds half away from zero, the one rounding of the rules (3): 4.5 is 5, −4.5 is −5.
 * @param divisor greater than zero
 * @example roundedQuotient(-9n, 2n) // -5n
 */
export function roundedQuotient(dividend: bigint, divisor: bigint): bigint {
  const twice = 2n * divisor;
  return dividend >= 0n ? (2n * dividend + divisor) / twice : -((-2n * dividend + divisor) / twice);
}
