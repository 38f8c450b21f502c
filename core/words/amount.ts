import { formatDecimal } from '../money/decimal.ts';
import { minorDigits } from '../money/currency.ts';

const SYMBOLS: Readonly<Record<string, string>> = { GBP: '£', EUR: '€', JPY: '¥' };

/**
 * An amount as people write it, with its currency and a true minus sign.
 * @param minor whole minor units of the currency
 * @example sayAmount(123450n, 'GBP') // '£1,234.50'
 * @example sayAmount(4500n, 'KWD') // 'KWD 4.500'
 */
export function sayAmount(minor: bigint, currency: string): string {
  const symbol = SYMBOLS[currency] ?? `${currency}\u00a0`;
  return `${minor < 0n ? '\u2212' : ''}${symbol}${sayFigure(minor < 0n ? -minor : minor, currency)}`;
}

/** The same without its currency, for columns that name it once: '1,234.50', '−5.00'. */
export function sayFigure(minor: bigint, currency: string): string {
  const [whole = '0', decimals] = formatDecimal(minor < 0n ? -minor : minor, minorDigits(currency)).split(
    '.',
  );
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ',');
  return `${minor < 0n ? '\u2212' : ''}${grouped}${decimals === undefined ? '' : `.${decimals}`}`;
}
