import type { Day } from '../dates/day.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import type { Payment } from '../listing/payment.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import type { WalkPosition } from '../listing/walkPosition.ts';
import { monthlyValue } from '../value/monthlyValue.ts';
import { DAYS_AHEAD } from './daysAhead.ts';

/** A due date lies at most so many days before its boundary (where working days move it forward). */
const MOST_BEFORE = 15;
/** Looked further than needed, so that not every day asks for a new foresight. */
const SPARE = 14;

/** What will be charged on one day, in minor units. */
export interface ForeseenCharge {
  readonly on: Day;
  /** How many payments that is. */
  readonly payments: number;
  readonly amount: bigint;
}

/** What is to come of a subscription, as it is stored beside it. */
export interface Foreseen {
  /** The first payment that is still to be invoiced, or null where there is none any more. */
  readonly next: Payment | null;
  /** By day, without those that come to nothing. All of the next {@link DAYS_AHEAD} days, and some of those after them. */
  readonly charges: readonly ForeseenCharge[];
  /** What it brings a month (rules 9), in minor units, on the day of the foresight. */
  readonly monthly: bigint;
  /** The day from which this does not hold or does not reach any more; null where it holds for good. */
  readonly again: Day | null;
}

/**
 * Foresees what terms come to from where a walk stands.
 * @param today the day of the foresight: it holds from then until the day before `again`
 */
export function foresee(terms: CompiledTerms, from: WalkPosition | undefined, today: Day): Foreseen {
  const walk = new PaymentWalk(terms, from);
  const last = today + DAYS_AHEAD + MOST_BEFORE + SPARE;
  const byDay = new Map<Day, ForeseenCharge>();
  let next: Payment | null = null;
  let boundary = Infinity;
  let payment = walk.next();
  for (; payment !== null && payment.from <= last; payment = walk.next()) {
    next ??= payment;
    if (payment.from > today) boundary = Math.min(boundary, payment.from);
    if (payment.due === 0n) continue;
    const { dueOn: on, due } = payment;
    const before = byDay.get(on);
    byDay.set(on, { on, payments: (before?.payments ?? 0) + 1, amount: (before?.amount ?? 0n) + due });
  }
  const reaches = payment === null ? Infinity : payment.from - MOST_BEFORE - DAYS_AHEAD;
  const again = Math.min(reaches, changesOn(terms, today, boundary));
  return {
    next: next ?? payment,
    charges: [...byDay.values()],
    monthly: monthlyValue(terms, today),
    again: again === Infinity ? null : again,
  };
}

/** The first day after today on which other lines or another rhythm may hold. */
function changesOn({ recurring }: CompiledTerms, today: Day, boundary: Day): Day {
  if (recurring === null || (recurring.changes.length === 0 && recurring.pauses.length === 0))
    return Infinity;
  const dates = recurring.changes.map(({ date }) => date).filter((date) => date > today);
  return Math.min(boundary, ...dates);
}
