import { linesListedOn } from '../alter/linesOn.ts';
import { toDay } from '../dates/day.ts';
import { moneyOf } from '../listing/moneyOf.ts';
import { minorDigits } from '../money/currency.ts';
import { fullPrice, listPrice } from '../pricing/listPrice.ts';
import { isSameTax } from '../pricing/tax.ts';
import type { Law, LawFacts } from '../terms/law.ts';
import { sayAgreed } from './sayAgreed.ts';

/**
 * What somebody agreed to, with the taxes in force ({@link sayAgreed}). Where its lines bear several, the whole of a period is
 * said with all of them.
 * @param on the day whose lines and taxes are said, `YYYY-MM-DD`
 * @param today the day whose tax stands beside prices of one tax, where that is another
 * @example '£23.40 with its taxes every month'
 */
export function sayAgreedByLaw(law: Law, facts: LawFacts, on: string, today = on): string {
  const { terms } = facts;
  const day = toDay(today);
  const tax = law.taxSaid(facts, day);
  if (!('lines' in terms)) return sayAgreed(terms, on, tax);
  const digits = minorDigits(terms.currency);
  const lines = linesListedOn(terms, on).map((line) => ({
    ...{ role: 'recurring' as const, name: line.name ?? '', quantity: line.quantity ?? 1, discount: 0n },
    amount: fullPrice(listPrice(line.price, line.quantity ?? 1, digits, terms.ends?.after ?? 1), 1),
    tax: law.taxOfLine(facts, line, day),
  }));
  const usual = law.taxOfLine(facts, {}, day);
  if (lines.every((line) => isSameTax(line.tax, usual))) return sayAgreed(terms, on, tax);
  return sayAgreed(terms, on, undefined, moneyOf(lines).total);
}
