import type { Day } from '../../core/dates/day.ts';
import type { Line, Tax } from './terms.ts';

/** A line that runs, with how often it has been charged in full and listed. */
export interface Running {
  readonly line: Line;
  full: number;
  listed: number;
}
export interface Charged {
  amount: bigint;
  readonly from: Day;
  to: Day;
  of: Running | null;
  readonly tax: Tax | null;
}
export interface Span {
  readonly from: Day;
  readonly chargedTo: Day;
  end: Day;
  next: Day;
  readonly charge: 'charged' | 'free' | 'skipped';
  readonly days: number;
  readonly whole: number;
  readonly full: boolean;
  free: boolean;
  readonly rest: { readonly at: Day; readonly whole: number } | null;
}
export interface Amount {
  readonly amount: bigint;
  readonly tax: Tax | null;
}
