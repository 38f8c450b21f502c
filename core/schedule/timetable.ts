import { LAST_DAY, type Day } from '../dates/day.ts';
import { addDuration, type Duration } from '../dates/duration.ts';
import type { CompiledChange, CompiledRecurring, CompiledSchedule, Ends } from '../terms/compile.ts';
import { boundariesFrom, type Boundaries } from './boundaries.ts';

/**
 * The timetable of recurring terms: which stretches of time follow one another, which of them are charged
 * and for what part, and where changes fall. Time only; no amount is known here (rules 2 and 7).
 */
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
  readonly charge: 'charged' | 'free' | 'skipped';
  /** The part of the price that is charged: days of whole; full prices have days = whole. */
  readonly days: number;
  readonly whole: number;
  /** Whether a full price is charged, which counts towards `after` and uses up a first price. */
  readonly full: boolean;
}

/** A change that brings new lines, or settles old ones because a new schedule begins. */
export interface ChangeEvent {
  readonly type: 'change';
  readonly from: Day;
  /** Q: the end of the running stretch as it stood before the change. */
  readonly to: Day;
  /** Index among the terms' changes. */
  readonly change: number;
  readonly settle: 'now' | 'next' | 'none';
  /** Whether a new schedule begins with it: then only the old lines are settled, and carried. */
  readonly reschedules: boolean;
  /** L and W of rules 7: the part of the old and new prices that is settled. */
  readonly days: number;
  readonly whole: number;
}

/** The running stretch. `to` is where it ends if nothing cuts it: a `next` moves it. */
interface Stretch {
  readonly from: Day;
  to: Day;
  readonly charge: StretchEvent['charge'];
  /** The whole that its price stands for where it was prorated; null where the full price was charged. */
  readonly proratedOf: number | null;
  /** A `next` has moved its end: later changes in it settle nothing. */
  moved: boolean;
}

/** Where a timetable stands: plain data, to be stored and resumed from. */
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
  /** A `next` on the boundary at hand: where its stretch is moved to. */
  moveTo: Day | null;
  stretch: Stretch | null;
  /** First day not served, once over; null while it runs and where it never ends. */
  end: Day | null;
  /** The calendar of rules 2 ran out before the ending was reached. */
  exhausted: boolean;
}

/**
 * Walks a timetable event by event. It holds one position and moves it on lazily: after a stretch has been
 * given, the walk stands inside it until asked for more, so that a change that is added later, within that
 * stretch, still takes effect.
 */
export class Timetable {
  private boundaries: Boundaries | null = null;
  private scheduleInForce: CompiledSchedule | null = null;
  private pauseIndex = 0;

  constructor(
    private readonly terms: CompiledRecurring,
    private readonly starts: Day,
    private readonly at: TimetablePosition = startOf(terms, starts),
  ) {}

  /** A copy of the place reached. */
  position(): TimetablePosition {
    return { ...this.at, stretch: this.at.stretch && { ...this.at.stretch } };
  }

  /** The next event in the order of time, or null when the subscription is over. */
  next(): TimetableEvent | null {
    for (;;) {
      switch (this.at.phase) {
        case 'start':
          return this.start();
        case 'trial': {
          const event = this.inTrial();
          if (event) return event;
          break;
        }
        case 'boundary': {
          const event = this.atBoundary();
          if (event) return event;
          break;
        }
        case 'stretch': {
          const event = this.inStretch();
          if (event) return event;
          break;
        }
        case 'over':
          return null;
      }
    }
  }

  /** Whether a stub or period is still to be charged from here on. Moves nothing. */
  hasChargeAhead(): boolean {
    const ahead = new Timetable(this.terms, this.starts, this.position());
    for (let event = ahead.next(); event !== null; event = ahead.next()) {
      if (event.type === 'stretch' && event.charge === 'charged') return true;
    }
    return false;
  }

  /** Walks on to the end: the first day not served, or null if it never ends. */
  runToEnd(): { readonly end: Day | null; readonly exhausted: boolean } {
    const { at } = this;
    while (at.phase !== 'over') {
      if (at.ends === null && at.change >= this.terms.changes.length) return { end: null, exhausted: false };
      this.next();
    }
    return { end: at.end, exhausted: at.exhausted && at.ends !== null };
  }

  private start(): TimetableEvent {
    const { at } = this;
    if (this.terms.trial === null) {
      this.beginSchedule(-1, this.starts);
      return this.next() as TimetableEvent;
    }
    const change = this.upcoming();
    if (change?.date === this.starts) return this.applyInTrial(change);
    at.phase = 'trial';
    return { type: 'trial', from: this.starts, to: this.trialStop() };
  }

  private inTrial(): TimetableEvent | null {
    const stop = this.trialStop();
    const change = this.upcoming();
    if (change !== null && change.date < stop) return this.applyInTrial(change);
    if (this.untilDay() < this.at.trialEnd) this.finish(stop);
    else this.beginSchedule(this.at.afterTrial, this.at.trialEnd);
    return null;
  }

  /** The trial's end, or the day after an `until` that falls inside it. */
  private trialStop(): Day {
    return Math.min(this.at.trialEnd, this.untilDay() + 1);
  }

  private applyInTrial(change: CompiledChange): ChangeEvent {
    const { at } = this;
    const index = at.change;
    at.change += 1;
    if (change.ends !== undefined) at.ends = change.ends;
    if (change.schedule !== null) at.afterTrial = index;
    if (change.next !== null) at.trialEnd = change.next;
    return changeEvent(index, change.date, at.trialEnd, 'none', false);
  }

  private atBoundary(): TimetableEvent | null {
    const { at } = this;
    if (this.isCompleted() || this.untilDay() < at.cursor) {
      this.finish(at.cursor);
      return null;
    }
    const change = this.upcoming();
    if (change === null || change.date > at.cursor) return this.openStretch();
    const index = at.change;
    at.change += 1;
    if (change.ends !== undefined) at.ends = change.ends;
    if (change.schedule !== null) this.beginSchedule(index, at.cursor);
    if (change.next !== null) at.moveTo = change.next;
    return changeEvent(index, change.date, at.cursor, 'none', false);
  }

  /** Opens the stub or period that starts at the cursor: skipped, free, in full or in part. */
  private openStretch(): StretchEvent | null {
    const { at } = this;
    const from = at.cursor;
    const isStub = at.index === -1;
    const boundaries = this.currentBoundaries();
    const natural = boundaries(at.index + 1);
    const stubPolicy = this.schedule().stub;
    const pause = this.pauseAt(from);
    let to = natural;
    if (at.moveTo !== null) to = at.moveTo;
    else if (pause?.restart) to = pause.to;
    if (to > LAST_DAY) {
      at.exhausted = true;
      this.finish(null);
      return null;
    }
    const whole = isStub ? natural - boundaries(-1) : to - from;
    const cut = this.terms.endStub === 'prorate' ? this.untilDay() + 1 : Infinity;
    const charge = pause ? 'skipped' : isStub && stubPolicy === 'free' ? 'free' : 'charged';
    const inFull = isStub ? stubPolicy === 'full' : cut >= to;
    const days = inFull ? whole : Math.min(isStub ? natural : to, cut) - from;

    if (at.moveTo !== null || pause?.restart) this.countBareFrom(to);
    else at.index += 1;
    at.moveTo = null;
    const full = charge === 'charged' && inFull;
    if (full) at.fullPrices += 1;
    at.stretch = { from, to, charge, proratedOf: inFull ? null : whole, moved: false };
    at.phase = 'stretch';
    const kind = isStub ? 'stub' : 'period';
    return { type: 'stretch', kind, from, to: Math.min(to, cut), charge, days, whole, full };
  }

  private inStretch(): TimetableEvent | null {
    const { at } = this;
    const stretch = at.stretch as Stretch; // there is one in this phase
    const stop = this.stretchStop(stretch);
    const change = this.upcoming();
    if (change !== null && change.date < stop) return this.applyInStretch(change, stretch, stop);
    if (this.isCompleted() || this.untilDay() < stretch.to) this.finish(stop);
    else {
      at.cursor = stretch.to;
      at.phase = 'boundary';
    }
    return null;
  }

  /** Where the running stretch ends as things stand: Q of rules 7. */
  private stretchStop(stretch: Stretch): Day {
    const stopsAtUntil = stretch.charge === 'skipped' || this.terms.endStub === 'prorate';
    return stopsAtUntil ? Math.min(stretch.to, this.untilDay() + 1) : stretch.to;
  }

  private applyInStretch(change: CompiledChange, stretch: Stretch, stop: Day): ChangeEvent | null {
    const { at } = this;
    const index = at.change;
    at.change += 1;
    const settles = stretch.charge === 'charged' && !stretch.moved;
    const movesTime = change.ends !== undefined || !(this.isCompleted() || this.untilDay() < change.date);
    const reschedules = change.schedule !== null && movesTime;
    const days = stop - change.date;
    const whole = stretch.proratedOf ?? stop - stretch.from;
    if (change.ends !== undefined) at.ends = change.ends;
    if (reschedules) this.beginSchedule(index, change.date);
    else if (change.next !== null && movesTime) {
      stretch.to = change.next;
      stretch.moved = true;
      this.countBareFrom(change.next);
    }
    if (change.lines === null && !reschedules) return null;
    return changeEvent(index, change.date, stop, settles ? change.settle : 'none', reschedules, days, whole);
  }

  private upcoming(): CompiledChange | null {
    const { changes } = this.terms;
    return this.at.change < changes.length ? (changes[this.at.change] ?? null) : null;
  }

  private isCompleted(): boolean {
    const { ends, fullPrices } = this.at;
    return ends !== null && 'after' in ends && fullPrices >= ends.after;
  }

  /** The last day of an `until`, or infinity. */
  private untilDay(): Day {
    const { ends } = this.at;
    return ends !== null && 'until' in ends ? ends.until : Infinity;
  }

  private finish(end: Day | null): void {
    this.at.phase = 'over';
    this.at.end = end;
    this.at.stretch = null;
  }

  private schedule(): CompiledSchedule {
    const { scheduleOf } = this.at;
    const ofChange = scheduleOf < 0 ? null : this.terms.changes[scheduleOf]?.schedule;
    this.scheduleInForce ??= ofChange ?? this.terms.schedule;
    return this.scheduleInForce;
  }

  private beginSchedule(scheduleOf: number, from: Day): void {
    const { at } = this;
    at.scheduleOf = scheduleOf;
    at.from = from;
    at.bare = false;
    at.cursor = from;
    at.phase = 'boundary';
    at.stretch = null;
    this.scheduleInForce = null;
    this.boundaries = null;
    at.index = this.currentBoundaries()(0) > from ? -1 : 0;
  }

  /** Boundaries count from here by the interval alone, without anchor and without a stub. */
  private countBareFrom(from: Day): void {
    this.at.bare = true;
    this.at.from = from;
    this.at.index = 0;
    this.boundaries = null;
  }

  private currentBoundaries(): Boundaries {
    const { interval, on } = this.schedule();
    this.boundaries ??= boundariesFrom(this.at.from, interval, this.at.bare ? null : on);
    return this.boundaries;
  }

  private pauseAt(day: Day): CompiledRecurring['pauses'][number] | null {
    const { pauses } = this.terms;
    for (; this.pauseIndex < pauses.length; this.pauseIndex += 1) {
      const pause = pauses[this.pauseIndex];
      if (pause !== undefined && pause.to > day) return pause.from <= day ? pause : null;
    }
    return null;
  }
}

function startOf(terms: CompiledRecurring, starts: Day): TimetablePosition {
  return {
    phase: 'start',
    cursor: starts,
    change: 0,
    ends: terms.ends,
    fullPrices: 0,
    scheduleOf: -1,
    bare: false,
    from: starts,
    index: 0,
    trialEnd: addTrial(starts, terms.trial?.length),
    afterTrial: -1,
    moveTo: null,
    stretch: null,
    end: null,
    exhausted: false,
  };
}

function addTrial(starts: Day, length: Duration | undefined): Day {
  return length === undefined ? starts : addDuration(starts, length);
}

function changeEvent(
  change: number,
  from: Day,
  to: Day,
  settle: ChangeEvent['settle'],
  reschedules: boolean,
  days = 0,
  whole = 1,
): ChangeEvent {
  return { type: 'change', from, to, change, settle, reschedules, days, whole };
}
