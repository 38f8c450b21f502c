import { toDay, type Day } from '../dates/day.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { compileTerms } from '../terms/compile.ts';
import type { RecurringTerms } from '../terms/schema.ts';

/**
 * How many stubs and periods pauses leave out whose boundary lies in [from, to): counted by the terms as they would run
 * without any pause.
 */
export function periodsRested(terms: RecurringTerms, from: Day, to: Day): number {
  const pauses = (terms.pauses ?? []).map((pause) => ({ from: toDay(pause.from), to: toDay(pause.to) }));
  if (!pauses.some((pause) => pause.to > from && pause.from < to)) return 0;
  const { pauses: _, ...without } = terms;
  const walk = new PaymentWalk(compileTerms(without));
  let rested = 0;
  for (let payment = walk.next(); payment !== null && payment.from < to; payment = walk.next()) {
    const { kind, from: boundary } = payment;
    const isBoundary = (kind === 'period' || kind === 'stub') && boundary >= from;
    if (isBoundary && pauses.some((pause) => pause.from <= boundary && boundary < pause.to)) rested += 1;
  }
  return rested;
}
