import type { Ends } from '../agreed/terms.ts';
import type { Day } from '../dates/day.ts';

/** Where a timetable stands: plain data, to be stored and resumed from. The walk around it has the version. */
export interface TimetablePosition {
  phase: 'start' | 'trial' | 'boundary' | 'stretch' | 'over';
  /** The boundary whose stretch is to be opened (phase boundary). */
  cursor: Day;
  /** Index of the next change not yet come. */
  change: number;
  ends: Ends | null;
  /** Full prices charged since `starts`. */
  fullPrices: number;
  /** Whose schedule is in force: −1 the terms', otherwise that of this change. */
  scheduleOf: number;
  /** Whether the schedule counts without its anchor, after a `next` or a restart. */
  bare: boolean;
  /** The day A that boundaries are counted from, and the index of the next stretch: −1 is the stub. */
  from: Day;
  index: number;
  trialEnd: Day;
  /** Whose schedule takes effect when the trial ends. */
  afterTrial: number;
  /** A `next` on the boundary at hand: where its stretch is moved to, and whether that is paid for. */
  moveTo: { readonly day: Day; readonly prorates: boolean } | null;
  /** The rest of a pause, where the boundary at hand is the day on which the pause ends. */
  rest: Rest | null;
  stretch: Stretch | null;
  /** First day not served, once over; null while it runs and where it never ends. */
  end: Day | null;
  /** The calendar of rules 2 ran out before the ending was reached. */
  exhausted: boolean;
}

/** What is left of a skipped stub or period on the day a pause ends (rules 2). */
export interface Rest {
  /** Where it ends: where what was skipped ends. */
  readonly to: Day;
  /** The days of the whole that its price stands for. */
  readonly whole: number;
}

/** The running stub or period, or what is skipped of one. Days are half-open. */
export interface Stretch {
  /** P of rules 7. */
  readonly from: Day;
  /** Q0: its end as charged. */
  readonly chargedTo: Day;
  /** Q: its end as things stand, an ending that cuts it left aside. */
  end: Day;
  /** The next boundary: later than Q where what was charged cut has lost that ending; the days between are skipped. */
  to: Day;
  readonly charge: 'charged' | 'free' | 'skipped';
  /** The part of the price that was charged: days of whole; full prices have days = whole. */
  readonly days: number;
  readonly whole: number;
  /** Whether a full price was charged. */
  readonly full: boolean;
  /** An ending cut it when it was charged, and has not been lost since. */
  cut: boolean;
  /** A `next` has moved its end for nothing: later changes in it settle nothing. */
  moved: boolean;
  /** Of what a pause skips: the day on which a rest is charged, and the whole that its price stands for. */
  readonly rest: { readonly at: Day; readonly whole: number } | null;
}

export type TimetableEvent = TrialEvent | StretchEvent | ChangeEvent;

export interface TrialEvent {
  readonly type: 'trial';
  readonly from: Day;
  readonly to: Day;
}

/** A stub or period whose turn has come. */
export interface StretchEvent {
  readonly type: 'stretch';
  readonly kind: 'stub' | 'period';
  readonly from: Day;
  /** First day not served by it, as things stand on `from`. */
  readonly to: Day;
  readonly charge: Stretch['charge'];
  /** The part of the price that is charged: days of whole; full prices have days = whole. */
  readonly days: number;
  readonly whole: number;
  /** Whether a full price is charged, which counts towards `after` and uses up a first price. */
  readonly full: boolean;
}

/** A change that brings new lines, or settles what was charged. */
export interface ChangeEvent {
  readonly type: 'change';
  /** C. */
  readonly from: Day;
  /** T: the end of the running stretch, or the earlier day on which an ending now stops service. */
  readonly to: Day;
  /** Index among the terms' changes. */
  readonly change: number;
  /** What it settles as, which is none where nothing was charged. */
  readonly settle: 'now' | 'next' | 'none';
  /** Whether a new schedule begins with it: then what was charged is credited, and carried. */
  readonly reschedules: boolean;
  /** The payment that is settled: its span [P, Q0) and the part of the price that it stands for. */
  readonly charged: ChargedSpan;
  /** A `next` that is paid for: the end moves from Q to N, and service stops on T′. */
  readonly moves: { readonly from: Day; readonly to: Day; readonly stop: Day } | null;
}

/** A payment of a stub or period as it was charged: [from, to), and days of whole of the price, or a full price. */
export interface ChargedSpan {
  readonly from: Day;
  readonly to: Day;
  readonly days: number;
  readonly whole: number;
  readonly full: boolean;
}
