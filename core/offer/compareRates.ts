import { PaymentWalk } from '../listing/paymentWalk.ts';
import { fraction, rounded, times } from '../money/fraction.ts';
import { checkTerms } from '../terms/check.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';
import { paymentsAYear } from '../value/monthlyValue.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';

/** A rate that is offered, as far as it is held against others. */
export interface OfferedRate {
  readonly id: string;
  readonly name: string;
  readonly terms: RateTerms;
}

/** One rate held against another one of the same currency. */
export interface Difference {
  readonly id: string;
  readonly name: string;
  /** What is compared: a year of each, all of it until it ends, or each payment with buying once as often. */
  readonly basis: 'a year' | 'in all' | 'each time, bought once';
  /** Minor units; positive where this rate costs less. */
  readonly saves: bigint;
  /** Of what the other costs, with at most one decimal, without a sign. */
  readonly percent: string;
}

/** What a rate costs, and how it compares. */
export interface ComparedRate {
  readonly currency: string;
  /** What one full payment is, of one of the first line; null where it cannot be computed. */
  readonly each: bigint | null;
  /** A rate that goes on: what a year of full periods costs. Null for one that ends. */
  readonly year: bigint | null;
  /** A rate that ends: what it costs in all. Null for one that goes on. */
  readonly total: bigint | null;
  readonly against: readonly Difference[];
}

interface Costed {
  readonly rate: OfferedRate;
  readonly currency: string;
  readonly oneOff: boolean;
  readonly each: bigint | null;
  readonly year: { readonly sum: bigint; readonly each: bigint } | null;
  readonly total: bigint | null;
}

/** Most payments that are added up of a rate that ends. */
const MOST_PAYMENTS = 1000;

/**
 * Holds the rates of a plan against each other, for one of the first line and without trial, set-up and first prices:
 * those that go on by what a year costs, those that end (instalments beside the price at once) by what they cost in
 * all, and those that go on against buying once as often.
 * @param today the day they would start on, YYYY-MM-DD
 * @param compile compiles the terms of a rate: with the taxes in force, where the sums are to hold them
 */
export function compareRates(
  rates: readonly OfferedRate[],
  today: string,
  compile: (terms: Terms, rate: OfferedRate) => CompiledTerms = (terms) => compileTerms(terms),
): ReadonlyMap<string, ComparedRate> {
  const costed = rates.map((rate) => costOf(rate, today, (terms) => compile(terms, rate)));
  return new Map(
    costed.map((one) => [
      one.rate.id,
      {
        ...{ currency: one.currency, each: one.each },
        year: one.year?.sum ?? null,
        total: one.total,
        against: costed
          .filter((other) => other !== one && other.currency === one.currency)
          .flatMap((other) => differenceOf(one, other)),
      },
    ]),
  );
}

function differenceOf(one: Costed, other: Costed): Difference[] {
  const { id, name } = other.rate;
  const held = (basis: Difference['basis'], costs: bigint, against: bigint): Difference[] => [
    { id, name, basis, saves: against - costs, percent: percentOf(against - costs, against) },
  ];
  if (one.year && other.year) return held('a year', one.year.sum, other.year.sum);
  if (one.total !== null && other.total !== null) return held('in all', one.total, other.total);
  if (one.year && other.oneOff && other.total !== null)
    return held('each time, bought once', one.year.each, other.total);
  return [];
}

type Compile = (terms: Terms) => CompiledTerms;

function costOf(rate: OfferedRate, today: string, compile: Compile): Costed {
  const { terms } = rate;
  const { currency } = terms;
  const oneOff = !('lines' in terms);
  const none = { rate, currency, oneOff, each: null, year: null, total: null };
  const plain = plainTerms(terms, today, oneOff);
  if (plain === null) return none;
  const ends = oneOff || ('ends' in plain && plain.ends !== undefined);
  if (!ends) {
    const year = yearOfPlain(plain, compile);
    return { ...none, year, each: year?.each ?? null };
  }
  const total = totalOf(plain, compile);
  return { ...none, total, each: oneOff ? total : firstFull(compile(plain)) };
}

/** What a year of a rate that goes on costs, minor units; null for one that ends or cannot be computed. */
export function yearOf(terms: Terms, today: string): bigint | null {
  const plain = plainTerms(terms as unknown as RateTerms, today, false);
  if (plain === null || !('lines' in plain) || plain.ends) return null;
  return yearOfPlain(plain, compileTerms)?.sum ?? null;
}

/** The terms of somebody who has been there for long: no trial, set-up or first price, and a whole first period. */
function plainTerms(rate: RateTerms, today: string, withOnce: boolean): Terms | null {
  const { trial: _, setup: __, once, pauses: ___, ...rest } = rate as RateTerms & Record<string, unknown>;
  const lines = (rest as { lines?: readonly object[] }).lines?.map((line) => {
    const { intro: _intro, discounts: _discounts, ...kept } = line as Record<string, unknown>;
    return kept;
  });
  const composed = composeTerms(
    {
      ...rest,
      ...(withOnce ? { once } : {}),
      ...(lines ? { lines } : {}),
      ...('on' in rest && rest.on ? { stub: 'free' } : {}),
    } as RateTerms,
    { starts: today },
  );
  const checked = checkTerms(composed);
  return checked.ok ? checked.terms : null;
}

/** A full period's payment, times the payments of a year as they count in monthly value (rules 9). */
function yearOfPlain(terms: Terms, compile: Compile): { sum: bigint; each: bigint } | null {
  const compiled = compile(terms);
  const each = compiled.recurring && firstFull(compiled);
  if (compiled.recurring === null || each === null) return null;
  const { interval, on } = compiled.recurring.schedule;
  return { each, sum: rounded(times(fraction(each), paymentsAYear(interval, on))) };
}

/** The first payment of a whole period. */
function firstFull(compiled: CompiledTerms): bigint | null {
  const walk = new PaymentWalk(compiled);
  let payment = walk.next();
  while (payment !== null && payment.kind !== 'period') payment = walk.next();
  return payment && payment.money.total;
}

function totalOf(terms: Terms, compile: Compile): bigint | null {
  const walk = new PaymentWalk(compile(terms));
  let sum = 0n;
  let count = 0;
  for (let payment = walk.next(); payment !== null; payment = walk.next(), count += 1) {
    if (count === MOST_PAYMENTS) return null;
    sum += payment.money.total;
  }
  return sum;
}

function percentOf(part: bigint, whole: bigint): string {
  if (whole === 0n) return '0';
  const size = part < 0n ? -part : part;
  const thousandths = (size * 1000n + whole / 2n) / whole;
  return `${thousandths / 10n}${thousandths % 10n === 0n ? '' : `.${thousandths % 10n}`}`;
}

/** The biggest saving of a rate against another one, of those that are compared by the same sums. */
export function bestSaving({ against }: ComparedRate): Difference | null {
  const saving = against.filter(({ saves }) => saves > 0n);
  return saving.reduce<Difference | null>(
    (best, one) => (best === null || one.saves > best.saves ? one : best),
    null,
  );
}
