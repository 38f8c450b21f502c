import { formatDay, toDay, type Day } from '../dates/day.ts';
import { formatDecimal } from '../money/decimal.ts';
import { compileTerms } from '../terms/compile.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import { Timetable } from '../schedule/timetable.ts';
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
  const walk = new PaymentWalk(compiled);
  const payments: Output['payments'] = [];
  let sum = 0n;
  let creditLeft = 0n;
  for (const payment of walkTo(walk, compiled, horizon)) {
    payments.push(writer.write(payment));
    sum += payment.due;
    creditLeft += creditAfter(payment);
  }
  const ends = endOfWalk(walk, compiled);
  return {
    payments,
    ends: ends === null ? null : formatDay(ends),
    sum: formatDecimal(sum, compiled.digits),
    creditLeft: formatDecimal(creditLeft, compiled.digits),
  };
}

/** What a payment adds to the credit at hand, in minor units: negative where it uses some up (rules 7). */
export function creditAfter({ money, credit }: Payment): bigint {
  return money.total < 0n ? -money.total : -credit;
}

/** The payments of compiled terms up to a horizon, one at a time and without keeping them. */
export function paymentsOf(terms: CompiledTerms, horizon: Horizon): Generator<Payment, void, void> {
  return walkTo(new PaymentWalk(terms), terms, horizon);
}

function* walkTo(walk: PaymentWalk, terms: CompiledTerms, horizon: Horizon): Generator<Payment, void, void> {
  const until = horizon !== null && 'until' in horizon ? toDay(horizon.until) : Infinity;
  let left = horizon !== null && 'count' in horizon ? horizon.count : Infinity;
  if (horizon === null && isOpenEnded(terms)) left = OPEN_ENDED_PAYMENTS;
  for (; left > 0; left -= 1) {
    const payment = walk.next();
    if (payment === null || payment.from > until) return;
    yield payment;
  }
}

/** Whether the terms never end, with every change that they hold. */
function isOpenEnded(terms: CompiledTerms): boolean {
  const { recurring } = terms;
  if (recurring === null) return false;
  return recurring.changes.length === 0
    ? recurring.ends === null
    : new Timetable(recurring, terms.starts).isEndless();
}

/**
 * The first day not served, or null for open-ended terms; of a one-off sale, its last date (rules 8).
 * @throws {@link RefusedTerms} where the ending would lie beyond the year 9999
 */
export function endOf(terms: CompiledTerms): Day | null {
  return endOfWalk(new PaymentWalk(terms), terms);
}

function endOfWalk(walk: PaymentWalk, terms: CompiledTerms): Day | null {
  const { end, exhausted } = walk.runToEnd();
  if (exhausted) {
    const ends = terms.recurring?.ends ?? null;
    const member = ends !== null && 'until' in ends ? 'until' : 'after';
    const detail = 'The ending, with its last period, lies within the year 9999.';
    throw new RefusedTerms([{ pointer: `/ends/${member}`, detail }]);
  }
  return end;
}
