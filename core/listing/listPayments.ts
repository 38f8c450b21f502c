import { formatDay, toDay, type Day } from '../dates/day.ts';
import { formatDecimal } from '../money/decimal.ts';
import { Timetable } from '../schedule/timetable.ts';
import { compileTerms, type CompiledTerms } from '../terms/compile.ts';
import { RefusedTerms } from '../terms/fault.ts';
import type { Terms } from '../terms/schema.ts';
import { OutputWriter, type Output } from './output.ts';
import type { Payment } from './payment.ts';
import { PaymentWalk } from './paymentWalk.ts';

/** How far a listing goes: to payments that start by a date (inclusive), or to a number of payments. */
export type Horizon = { readonly until: string } | { readonly count: number } | null;

/** Payments that open-ended terms list when no horizon is given (rules 8). */
export const OPEN_ENDED_PAYMENTS = 12;

/**
 * Lists the payments of checked terms in the form of rules 8. The horizon cuts the listing and the sum,
 * never the arithmetic.
 * @throws {@link RefusedTerms} where the ending would lie beyond the year 9999
 */
export function listPayments(terms: Terms, horizon: Horizon): Output {
  const compiled = compileTerms(terms);
  const writer = new OutputWriter(compiled.digits);
  const payments: Output['payments'] = [];
  let sum = 0n;
  for (const payment of paymentsOf(compiled, horizon)) {
    payments.push(writer.write(payment));
    sum += payment.due;
  }
  const ends = endOf(compiled);
  return { payments, ends: ends === null ? null : formatDay(ends), sum: formatDecimal(sum, compiled.digits) };
}

/** The payments of compiled terms up to a horizon, one at a time and without keeping them. */
export function* paymentsOf(terms: CompiledTerms, horizon: Horizon): Generator<Payment, void, void> {
  const isOpenEnded = endOf(terms) === null;
  const until = horizon !== null && 'until' in horizon ? toDay(horizon.until) : Infinity;
  let left = horizon !== null && 'count' in horizon ? horizon.count : Infinity;
  if (horizon === null && isOpenEnded) left = OPEN_ENDED_PAYMENTS;
  const walk = new PaymentWalk(terms);
  while (left > 0) {
    const payment = walk.next();
    if (payment === null || payment.from > until) return;
    yield payment;
    left -= 1;
  }
}

/**
 * The first day not served, or null for open-ended terms; of a one-off sale, its last date (rules 8).
 * @throws {@link RefusedTerms} where the ending would lie beyond the year 9999
 */
export function endOf(terms: CompiledTerms): Day | null {
  if (terms.recurring === null) return terms.once.at(-1)?.date ?? null;
  const { recurring } = terms;
  if (recurring.ends === null && recurring.changes.length === 0) return null;
  const { end, exhausted } = new Timetable(recurring, terms.starts).runToEnd();
  if (exhausted) {
    const member = recurring.ends !== null && 'until' in recurring.ends ? 'until' : 'after';
    const detail = 'The ending, with its last period, lies within the year 9999.';
    throw new RefusedTerms([{ pointer: `/ends/${member}`, detail }]);
  }
  return end;
}
