import {
  dividedBy,
  fraction,
  lesser,
  minus,
  plus,
  rounded,
  times,
  type Fraction,
} from '../money/fraction.ts';
import { tenTo } from '../money/decimal.ts';
import type { Day } from '../dates/day.ts';
import type { Duration } from '../dates/duration.ts';
import type { Anchor } from '../agreed/anchor.ts';
import { Timetable } from '../schedule/timetable.ts';
import {
  PERCENT_PLACES,
  TAX_RATE_PLACES,
  type CompiledDiscount,
  type CompiledLine,
  type CompiledSchedule,
  type CompiledTerms,
} from '../agreed/terms.ts';

/** The lines and the schedule that hold on one day of a subscription's life. */
export interface InForce {
  readonly lines: readonly CompiledLine[];
  readonly schedule: CompiledSchedule;
}

/**
 * The lines and schedule in force at the end of a day, with every change up to it; a schedule that a change
 * brings in during a trial holds from the trial's end.
 */
export function inForce(terms: CompiledTerms, day: Day): InForce | null {
  const { recurring } = terms;
  if (recurring === null) return null;
  let { lines } = recurring;
  // Where nothing alters them there is no need to walk through years.
  if (recurring.changes.length === 0 && recurring.pauses.length === 0)
    return { lines, schedule: recurring.schedule };
  for (const change of recurring.changes) if (change.date <= day) lines = change.lines ?? lines;
  const timetable = new Timetable(recurring, terms.starts);
  let reached = timetable.position();
  for (let event = timetable.next(); event !== null && event.from <= day; event = timetable.next()) {
    reached = timetable.position();
  }
  const schedule = recurring.changes[reached.scheduleOf]?.schedule ?? recurring.schedule;
  // After a `next` or a restart, periods count by the interval alone.
  return { lines, schedule: reached.bare ? { ...schedule, on: null } : schedule };
}

/**
 * The recurring revenue of one subscription, per month, in minor units (rules 9): list prices less the
 * discounts without limit, tax taken out where it is inclusive, times the payments of a year, over 12. Exact
 * over the whole sum, rounded once. Whether the subscription counts at all is its state's affair.
 *
 * @example 30.00 every quarter is 10.00 a month
 */
export function monthlyValue(terms: CompiledTerms, day: Day): bigint {
  const holds = inForce(terms, day);
  if (holds === null) return 0n;
  const lasting = (discount: CompiledDiscount) => discount.payments === Infinity;
  const lines = holds.lines.filter(({ list }) => list.kind === 'each-period');
  let left = lines.map(
    (line) => line.discounts.filter(lasting).reduce(takenOff, [exactMinor(line)])[0] ?? ZERO,
  );
  for (const discount of terms.discounts) {
    if (lasting(discount) && discount.to !== 'once') left = takenOff(left, discount);
  }
  const net = left.reduce((sum, amount, i) => plus(sum, withoutTax(amount, lines[i])), ZERO);
  const perYear = paymentsAYear(holds.schedule.interval, holds.schedule.on);
  return rounded(dividedBy(times(net, perYear), fraction(12n)));
}

const ZERO = fraction(0n);

/** A line's list price, exact, in minor units. */
function exactMinor({ list }: CompiledLine): Fraction {
  return list.kind === 'each-period' ? fraction(list.exact, list.perMinor) : ZERO;
}

/** What a discount leaves of exact amounts: shared in proportion and not rounded. */
function takenOff(amounts: readonly Fraction[], discount: CompiledDiscount): Fraction[] {
  if (discount.percent !== null) {
    const whole = 100n * tenTo(PERCENT_PLACES);
    const kept = fraction(whole - discount.percent, whole);
    return amounts.map((amount) => times(amount, kept));
  }
  const total = amounts.reduce(plus, ZERO);
  if (total.over === 0n) return [...amounts];
  const off = lesser(fraction(discount.amount ?? 0n), total);
  return amounts.map((amount) => minus(amount, times(off, dividedBy(amount, total))));
}

function withoutTax(amount: Fraction, line: CompiledLine | undefined): Fraction {
  if (line?.tax?.mode !== 'inclusive') return amount;
  const hundred = 100n * tenTo(TAX_RATE_PLACES);
  return times(amount, fraction(hundred, hundred + line.tax.rate));
}

/** Payments of a year: D 365 / n, W 52 / n, M 12 / n, twice a month 24, Y 1 / n (rules 9). */
export function paymentsAYear({ unit, count }: Duration, on: Anchor | null): Fraction {
  if (on?.kind === 'two-days') return fraction(24n);
  return fraction({ D: 365n, W: 52n, M: 12n, Y: 1n }[unit], BigInt(count));
}
