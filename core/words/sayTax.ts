import { parseDecimal } from '../money/decimal.ts';
import { taxOf } from '../pricing/tax.ts';
import { TAX_RATE_PLACES } from '../agreed/terms.ts';
import { sayAmount } from './amount.ts';

/** A tax as it is said beside a price. */
export interface SayableTax {
  /** Such as '20' or '7.7'. */
  readonly percent: string;
  readonly mode: 'exclusive' | 'inclusive';
  /** What it is called: 'VAT'. */
  readonly name: string;
  /** Whether the business thinks in prices without tax (`net`) or with it (`gross`). */
  readonly said: 'net' | 'gross';
}

/** The tax on a price: null where it pays none, undefined where the business knows no taxes at all. */
export type TaxSaid = SayableTax | null | undefined;

const named = ({ percent, name }: SayableTax) => `${percent} % ${name}`;

/**
 * An amount with its tax, always in the same way: what is said first is how the business thinks, and both are there.
 * @param sum as a price names it, minor units: without the tax where that is exclusive, with it where it is inclusive
 * @example 30.00 with 20 % exclusive: '£30.00 + 20 % VAT = £36.00', or said gross '£36.00 (£30.00 + 20 % VAT)'
 */
export function sayTaxed(sum: bigint, currency: string, tax: TaxSaid): string {
  if (tax === undefined) return sayAmount(sum, currency);
  if (tax === null) return `${sayAmount(sum, currency)} (no tax)`;
  const { net, total } = taxOf(sum, { rate: parseDecimal(tax.percent, TAX_RATE_PLACES), mode: tax.mode });
  const [without, within] = [sayAmount(net, currency), sayAmount(total, currency)];
  return tax.said === 'net'
    ? `${without} + ${named(tax)} = ${within}`
    : `${within} (${without} + ${named(tax)})`;
}

/**
 * The tax beside prices that are not one amount.
 * @example '£4.50 each' becomes '£4.50 each + 20 % VAT', or '£4.50 each, 20 % VAT in it'
 */
export function sayTaxBeside(prices: string, tax: TaxSaid): string {
  if (tax === undefined) return prices;
  if (tax === null) return `${prices} (no tax)`;
  return tax.mode === 'exclusive' ? `${prices} + ${named(tax)}` : `${prices}, ${named(tax)} in it`;
}
