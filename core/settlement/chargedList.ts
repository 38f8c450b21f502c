import type { Day } from '../dates/day.ts';
import { roundedQuotient } from '../money/rounding.ts';

/** Which line of the terms (`of` −1) or of a change an amount belongs to: its name and tax are found there. */
export interface LineReference {
  readonly of: number;
  readonly line: number;
}

/** An amount that was charged for a line and the days that it stands for: [from, to). Minor units, before tax. */
export interface Entry extends LineReference {
  readonly amount: bigint;
  readonly from: Day;
  readonly to: Day;
  /** Index among the lines in force of the line that it is of; null where that line is there no more. */
  readonly own: number | null;
}

/**
 * Rules 7, the charged list: what was charged for the running stub or period, and what else is to be known of the
 * payment on P to say what it would have charged for other lines.
 */
export interface ChargedList {
  readonly entries: readonly Entry[];
  /** Indexes of the discounts of the document that were taken in that payment. */
  readonly taken: readonly number[];
  /** The amounts of its `once` lines before discounts. */
  readonly once: readonly bigint[];
}

/** Some days of an amount: `days` of the `whole` that it stands for, from the day `from` up to `to`. */
export interface Part {
  /** Whether it comes back, rather than being charged. */
  readonly back: boolean;
  readonly of: bigint;
  readonly from: Day;
  readonly to: Day;
  readonly days: number;
  readonly whole: number;
}

/** The part of an entry in [from, to), or null where it holds none of those days. */
export function partIn(entry: Entry, from: Day, to: Day): Part | null {
  const first = Math.max(from, entry.from);
  const last = Math.min(to, entry.to);
  if (last <= first) return null;
  const whole = entry.to - entry.from;
  return { back: true, of: entry.amount, from: first, to: last, days: last - first, whole };
}

/** What a part comes to: round(amount × days / whole). */
export function amountOf({ of, days, whole }: Part): bigint {
  return roundedQuotient(of * BigInt(days), BigInt(whole));
}
