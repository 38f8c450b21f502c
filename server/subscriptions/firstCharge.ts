import { toDay } from '../../core/dates/day.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import type { Payment } from '../../core/listing/payment.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';

/** So far ahead the first charge is looked for: what costs nothing for longer is said to cost nothing. */
const YEARS_AHEAD = 100;

/**
 * The first payment with something to pay, from the start of the terms or on or after a day; null where there is none
 * within a hundred years.
 */
export function firstCharge(terms: CompiledTerms, onOrAfter = ''): Payment | null {
  const from = onOrAfter === '' ? -Infinity : toDay(onOrAfter);
  const walk = new PaymentWalk(terms);
  let horizon = Infinity;
  for (let payment = walk.next(); payment !== null; payment = walk.next()) {
    if (horizon === Infinity) horizon = Math.max(payment.from, from) + YEARS_AHEAD * 366;
    if (payment.due > 0n && payment.from >= from) return payment;
    if (payment.from > horizon) return null;
  }
  return null;
}
