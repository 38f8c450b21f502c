import { toDay } from '../dates/day.ts';
import { parseDuration, type Duration } from '../dates/duration.ts';
import { WEEKDAYS } from '../dates/weekday.ts';
import type { WorkingDays } from '../dates/workingDay.ts';
import {
  PERCENT_PLACES,
  TAX_RATE_PLACES,
  type CompiledChange,
  type CompiledDiscount,
  type CompiledLine,
  type CompiledRecurring,
  type CompiledSchedule,
  type CompiledTax,
  type CompiledTerms,
  type Ends,
  type TaxOn,
} from '../agreed/terms.ts';
import { minorDigits } from '../money/currency.ts';
import { parseDecimal } from '../money/decimal.ts';
import { listPrice } from '../pricing/listPrice.ts';
import type { Anchor } from '../agreed/anchor.ts';
import { termsInOneShape, type MembersOf } from './inOneShape.ts';
import type {
  RecurringTerms,
  Terms,
  TermsAnchor,
  TermsChange,
  TermsDiscount,
  TermsEnds,
  TermsLine,
  TermsTax,
} from './schema.ts';

/**
 * Makes checked terms ready to compute with.
 * @param taxOn where the terms leave their tax to the law
 * @param taxedApart the lines that it is asked of by their names
 */
export function compileTerms(document: Terms, taxOn?: TaxOn, taxedApart?: readonly string[]): CompiledTerms {
  const terms = termsInOneShape(document);
  const digits = minorDigits(terms.currency);
  const tax = compileTax(terms.tax);
  const money = (text: string) => parseDecimal(text, digits);
  const once = (terms.once ?? []).map((entry) => ({
    name: entry.name ?? '',
    date: toDay(entry.date),
    amount: money(entry.amount),
    tax: entry.tax === undefined ? tax : compileTax(entry.tax),
  }));
  return {
    currency: terms.currency,
    digits,
    starts: toDay(terms.starts),
    recurring: terms.lines === undefined ? null : compileRecurring(terms, terms.lines, digits, tax),
    once: once.sort((a, b) => a.date - b.date),
    discounts: (terms.discounts ?? []).map((discount) => compileDiscount(discount, digits)),
    tax,
    taxOn,
    taxedApart,
    paymentTerm: parseDuration(terms.terms ?? 'P0D')?.count ?? 0,
    workingDays: compileWorkingDays(terms.workingDays),
  };
}

function compileRecurring(
  terms: MembersOf<RecurringTerms>,
  lines: readonly TermsLine[],
  digits: number,
  tax: CompiledTax | null,
): CompiledRecurring {
  const money = (text: string | undefined) => parseDecimal(text ?? '0', digits);
  const ends = compileEnds(terms.ends) ?? null;
  const instalments = ends !== null && 'after' in ends ? ends.after : 1;
  const line = (entry: TermsLine) => compileLine(entry, digits, tax, instalments);
  return {
    lines: lines.map(line),
    schedule: compileSchedule(terms),
    trial: terms.trial ? { length: durationOf(terms.trial.length), amount: money(terms.trial.amount) } : null,
    setup: terms.setup ? { amount: money(terms.setup.amount), when: terms.setup.when ?? 'start' } : null,
    ends,
    endStub: terms.endStub ?? 'whole',
    pauses: (terms.pauses ?? []).map((pause) => ({
      from: toDay(pause.from),
      to: toDay(pause.to),
      restart: pause.resume === 'restart',
      chargesRest: pause.rest === 'prorate',
    })),
    changes: (terms.changes ?? []).map((change) => compileChange(change, line)),
  };
}

function compileChange(change: TermsChange, line: (entry: TermsLine) => CompiledLine): CompiledChange {
  return {
    date: toDay(change.date),
    lines: change.lines?.map(line) ?? null,
    schedule: change.schedule ? compileSchedule(change.schedule) : null,
    next: change.next === undefined ? null : toDay(change.next),
    nextProrates: change.nextStub === 'prorate',
    ends: compileEnds(change.ends),
    settle: change.settle ?? 'now',
  };
}

function compileLine(
  line: TermsLine,
  digits: number,
  termsTax: CompiledTax | null,
  instalments: number,
): CompiledLine {
  const quantity = line.quantity ?? 1;
  return {
    name: line.name ?? '',
    named: line.name !== undefined,
    quantity,
    price: line.price,
    list: listPrice(line.price, quantity, digits, instalments),
    intro: line.intro
      ? { payments: line.intro.payments, amount: parseDecimal(line.intro.amount, digits) }
      : null,
    discounts: (line.discounts ?? []).map((discount) => compileDiscount(discount, digits)),
    tax: line.tax === undefined ? termsTax : compileTax(line.tax),
  };
}

function compileSchedule(schedule: {
  interval: string;
  on?: TermsAnchor | undefined;
  stub?: 'prorate' | 'full' | 'free' | undefined;
}): CompiledSchedule {
  return {
    interval: durationOf(schedule.interval),
    on: schedule.on === undefined ? null : compileAnchor(schedule.on),
    stub: schedule.stub ?? 'prorate',
  };
}

/** An anchor with weekdays as indexes and "last" as day 31, which every shorter month clamps (rules 2). */
export function compileAnchor(on: TermsAnchor): Anchor {
  if ('month' in on) return { kind: 'month-day', month: on.month, day: on.day };
  if ('nth' in on) {
    return { kind: 'nth', nth: on.nth as 1 | 2 | 3 | 4 | 'last', weekday: WEEKDAYS.indexOf(on.weekday) };
  }
  if ('day' in on) return { kind: 'day', day: on.day === 'last' ? 31 : on.day };
  if ('days' in on) return { kind: 'two-days', days: on.days };
  return { kind: 'weekday', weekday: WEEKDAYS.indexOf(on.weekday) };
}

function compileEnds(ends: TermsEnds | null | undefined): Ends | null | undefined {
  if (ends === undefined || ends === null) return ends;
  return ends.until === undefined ? { after: ends.after ?? 1 } : { until: toDay(ends.until) };
}

function compileTax(tax: TermsTax | undefined): CompiledTax | null {
  return tax === undefined ? null : { rate: parseDecimal(tax.rate, TAX_RATE_PLACES), mode: tax.mode };
}

function compileDiscount(discount: TermsDiscount, digits: number): CompiledDiscount {
  return {
    percent: discount.percent === undefined ? null : parseDecimal(discount.percent, PERCENT_PLACES),
    amount: discount.amount === undefined ? null : parseDecimal(discount.amount, digits),
    payments: discount.payments ?? Infinity,
    to: discount.to ?? 'recurring',
  };
}

function compileWorkingDays(working: Terms['workingDays']): WorkingDays | null {
  if (working === undefined) return null;
  return {
    shift: working.shift,
    weekend: new Set((working.weekend ?? []).map((day) => WEEKDAYS.indexOf(day))),
    holidays: new Set((working.holidays ?? []).map(toDay)),
  };
}

function durationOf(text: string): Duration {
  const duration = parseDuration(text);
  if (duration === null) throw new RangeError(`not a duration: ${text}`);
  return duration;
}
