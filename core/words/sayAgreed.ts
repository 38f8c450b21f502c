import { linesListedOn } from '../alter/linesOn.ts';
import { parseDuration } from '../dates/duration.ts';
import { minorDigits } from '../money/currency.ts';
import { parseDecimal } from '../money/decimal.ts';
import { fullPrice, listPrice } from '../pricing/listPrice.ts';
import type { Terms, TermsLine } from '../terms/schema.ts';
import { sayAnchor, sayInterval, sayRate, type SayableTerms } from './sayRate.ts';
import { sayTaxed, type TaxSaid } from './sayTax.ts';

/**
 * What somebody agreed to, in their own figures: what a full period costs for what they have, never the general words
 * of a rate.
 * @param on the day whose lines are said, `YYYY-MM-DD`
 * @param withTaxes a full period with all of its taxes, minor units, where its lines bear several: it is said instead
 * @example '£19.00 + 20 % VAT = £22.80 every month for 2 × Hive'
 */
export function sayAgreed(terms: Terms, on: string, tax: TaxSaid, withTaxes?: bigint): string {
  if (!('lines' in terms)) return sayRate(terms as SayableTerms, tax);
  const lines = linesListedOn(terms, on);
  const change = (terms.changes ?? []).findLast(({ schedule, date }) => schedule !== undefined && date <= on);
  const { interval, on: anchor } = change?.schedule ?? terms;
  const digits = minorDigits(terms.currency);
  const priceOf = (line: TermsLine) =>
    fullPrice(listPrice(line.price, line.quantity ?? 1, digits, terms.ends?.after ?? 1), 1);
  const parts = lines.flatMap(({ price }) => (price.scheme === 'instalments' ? [price.total] : []));
  if (parts.length > 0) {
    const total = parts.reduce((all, text) => all + parseDecimal(text, digits), 0n);
    return `${sayTaxed(total, terms.currency, tax)} in ${terms.ends?.after ?? 1} parts`;
  }
  const sum = lines.reduce((total, line) => total + priceOf(line), 0n);
  const every = parseDuration(interval);
  const counted = lines.filter(({ quantity = 1 }) => quantity > 1);
  const said = [
    `${withTaxes === undefined ? sayTaxed(sum, terms.currency, tax) : `${sayTaxed(withTaxes, terms.currency, undefined)} with its taxes`}${every ? ` ${sayInterval(every)}` : ''}`,
    anchor ? sayAnchor(anchor) : '',
    counted.length > 0 ? `for ${counted.map(sayCounted).join(' and ')}` : '',
  ].filter(Boolean);
  const after = terms.ends?.after;
  return `${said.join(' ')}${after === undefined ? '' : `, ${after} times`}`;
}

const sayCounted = ({ quantity = 1, name }: TermsLine) => (name ? `${quantity} × ${name}` : String(quantity));
