import type { Day } from '../dates/day.ts';
import type { Duration } from '../dates/duration.ts';
import type { WorkingDays } from '../dates/workingDay.ts';
import type { Anchor } from './anchor.ts';
import type { ExactPrice, Price } from './price.ts';

/**
 * Terms made ready to compute with: dates as day numbers, money as minor units, percentages as whole
 * numbers of a fixed scale. Made once from a checked document; nothing here is read from text again.
 */
export interface CompiledTerms {
  readonly currency: string;
  /** Decimals of the currency. */
  readonly digits: number;
  readonly starts: Day;
  /** Null for a one-off sale. */
  readonly recurring: CompiledRecurring | null;
  /** In the order of their dates, those of one date in the order listed. */
  readonly once: readonly CompiledOnce[];
  readonly discounts: readonly CompiledDiscount[];
  readonly tax: CompiledTax | null;
  /**
   * Where the terms leave their tax to the law, the tax in force on the boundary of a payment. It takes the place of
   * `tax`; lines with a tax of their own keep it.
   */
  readonly taxOn?: TaxOn | undefined;
  /** The names of recurring lines that `taxOn` is to be asked of by themselves: lines of other plans, with other taxes. */
  readonly taxedApart?: readonly string[] | undefined;
  /** Days from a boundary to its due date. */
  readonly paymentTerm: number;
  readonly workingDays: WorkingDays | null;
}

/** The tax in force on a day, of a line that is taxed apart or else of all others; the same object for the same rate. */
export type TaxOn = (day: Day, line?: string) => CompiledTax | null;

export interface CompiledRecurring {
  readonly lines: readonly CompiledLine[];
  readonly schedule: CompiledSchedule;
  readonly trial: { readonly length: Duration; readonly amount: bigint } | null;
  readonly setup: { readonly amount: bigint; readonly when: 'start' | 'after-trial' } | null;
  readonly ends: Ends | null;
  readonly endStub: 'whole' | 'prorate';
  readonly pauses: readonly CompiledPause[];
  readonly changes: readonly CompiledChange[];
}

export interface CompiledPause {
  readonly from: Day;
  readonly to: Day;
  /** Whether the boundaries count anew from `to`. */
  readonly restart: boolean;
  /** Whether the days from `to` to the end of what was skipped are charged, rather than given. */
  readonly chargesRest: boolean;
}

export interface CompiledSchedule {
  readonly interval: Duration;
  readonly on: Anchor | null;
  readonly stub: 'prorate' | 'full' | 'free';
}

export type Ends = { readonly after: number } | { readonly until: Day };

export interface CompiledTax {
  /** Ten-thousandths of a percent: 20% is 200000n. */
  readonly rate: bigint;
  readonly mode: 'exclusive' | 'inclusive';
}

export interface CompiledDiscount {
  /** 10^-12 of a percent, or null for a discount of an amount. */
  readonly percent: bigint | null;
  /** Minor units, or null for a percentage. */
  readonly amount: bigint | null;
  readonly payments: number;
  readonly to: 'recurring' | 'once' | 'all';
}

export interface CompiledLine {
  /** Empty where the line has none. */
  readonly name: string;
  readonly named: boolean;
  readonly quantity: number;
  /** As the terms write it, and what that comes to for the quantity. */
  readonly price: Price;
  readonly list: ExactPrice;
  readonly intro: { readonly payments: number; readonly amount: bigint } | null;
  readonly discounts: readonly CompiledDiscount[];
  readonly tax: CompiledTax | null;
}

export interface CompiledOnce {
  readonly name: string;
  readonly date: Day;
  readonly amount: bigint;
  readonly tax: CompiledTax | null;
}

export interface CompiledChange {
  readonly date: Day;
  readonly lines: readonly CompiledLine[] | null;
  readonly schedule: CompiledSchedule | null;
  readonly next: Day | null;
  /** Whether the days that `next` gives or takes are charged or credited. */
  readonly nextProrates: boolean;
  /** Undefined leaves the ending as it is; null takes it away. */
  readonly ends: Ends | null | undefined;
  readonly settle: 'now' | 'next' | 'none';
}

/** Decimals of a discount's percentage, and of a tax rate (rules 1 and 6). */
export const PERCENT_PLACES = 12;
export const TAX_RATE_PLACES = 4;
