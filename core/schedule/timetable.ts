import type { CompiledChange, CompiledPause, CompiledRecurring } from '../agreed/terms.ts';
import { LAST_DAY, type Day } from '../dates/day.ts';
import { addDuration } from '../dates/duration.ts';
import { changeInStretch } from './changeInStretch.ts';
import { isReached, NEVER, untilOf } from './ending.ts';
import { Course } from './course.ts';
import { stretchOpening } from './openStretch.ts';
import type { ChangeEvent, Stretch, StretchEvent, TimetableEvent, TimetablePosition } from './place.ts';

/**
 * The timetable of recurring terms: which stubs and periods follow one another, which of them are charged and for
 * what part, where changes fall, and where it ends. Time only; no amount is known here (rules 2, and the days of 7).
 *
 * It holds one position and moves it on lazily: after a stretch has been given, the walk stands inside it until
 * asked for more, so that a change that is added later, within that stretch, still takes effect.
 */
export class Timetable {
  private readonly course: Course;
  private pauseIndex = 0;

  constructor(
    private readonly terms: CompiledRecurring,
    private readonly starts: Day,
    private readonly at: TimetablePosition = startOf(terms, starts),
  ) {
    this.course = new Course(terms, at);
  }

  /** A copy of the place reached. */
  position(): TimetablePosition {
    return copyOfPosition(this.at);
  }

  /** The next event in the order of time, or null when the subscription is over. */
  next(): TimetableEvent | null {
    for (;;) {
      if (this.at.phase === 'over') return null;
      const event = this.step();
      if (event !== null) return event;
    }
  }

  private step(): TimetableEvent | null {
    switch (this.at.phase) {
      case 'start':
        return this.start();
      case 'trial':
        return this.inTrial();
      case 'boundary':
        return this.atBoundary();
      case 'stretch':
        return this.inStretch();
      case 'over':
        return null;
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

  /** Whether it has no end, with every change that is still to come. The timetable is spent by it up to the last one. */
  isEndless(): boolean {
    const { at } = this;
    while (at.phase !== 'over' && at.change < this.terms.changes.length) this.step();
    return at.phase !== 'over' && at.ends === null;
  }

  /** Walks on to the end: the first day not served, or null if it never ends. */
  runToEnd(): { readonly end: Day | null; readonly exhausted: boolean } {
    const { at } = this;
    while (at.phase !== 'over') {
      if (at.ends === null && at.change >= this.terms.changes.length) return { end: null, exhausted: false };
      this.step();
    }
    return { end: at.end, exhausted: at.exhausted && at.ends !== null };
  }

  private start(): TimetableEvent | null {
    const { at } = this;
    if (this.terms.trial === null) {
      this.course.begin(-1, this.starts);
      return null;
    }
    const change = this.upcoming();
    if (change?.date === this.starts) return this.changeInTrial(change);
    at.phase = 'trial';
    return { type: 'trial', from: this.starts, to: this.trialStop() };
  }

  private inTrial(): TimetableEvent | null {
    const stop = this.trialStop();
    const change = this.upcoming();
    if (change !== null && change.date < stop) return this.changeInTrial(change);
    if (untilOf(this.at) < this.at.trialEnd) this.finish(stop);
    else this.course.begin(this.at.afterTrial, this.at.trialEnd);
    return null;
  }

  /** The trial's end, or the day after an `until` that falls inside it. */
  private trialStop(): Day {
    return Math.min(this.at.trialEnd, untilOf(this.at) + 1);
  }

  private changeInTrial(change: CompiledChange): ChangeEvent | null {
    const { at } = this;
    const index = at.change;
    at.change += 1;
    if (change.ends !== undefined) at.ends = change.ends;
    if (change.schedule !== null) at.afterTrial = index;
    if (change.next !== null) at.trialEnd = change.next;
    return change.lines === null ? null : unsettled(index, change.date);
  }

  private atBoundary(): TimetableEvent | null {
    const { at } = this;
    if (isReached(at) || untilOf(at) < at.cursor) {
      this.finish(at.cursor);
      return null;
    }
    const change = this.upcoming();
    if (change === null || change.date > at.cursor) return this.openStretch();
    const index = at.change;
    at.change += 1;
    if (change.ends !== undefined) at.ends = change.ends;
    if (change.schedule !== null) this.course.begin(index, at.cursor);
    if (change.next !== null) at.moveTo = { day: change.next, prorates: change.nextProrates };
    return change.lines === null ? null : unsettled(index, change.date);
  }

  private openStretch(): StretchEvent | null {
    const { at } = this;
    const pause = this.pauseAt(at.cursor);
    const opening = stretchOpening(at, this.course, pause, this.servedUntil(false));
    const { kind, stretch } = opening;
    if (stretch.to > LAST_DAY) {
      at.exhausted = true;
      this.finish(null);
      return null;
    }
    if (at.moveTo !== null || pause?.restart) this.course.countBareFrom(stretch.to);
    else if (at.rest === null) at.index += 1;
    at.moveTo = null;
    at.rest = null;
    if (stretch.full) at.fullPrices += 1;
    at.stretch = stretch;
    at.phase = 'stretch';
    const { from, chargedTo, charge, days, whole, full } = stretch;
    return { type: 'stretch', kind, from, to: chargedTo, charge, days, whole, full };
  }

  private inStretch(): TimetableEvent | null {
    const { at } = this;
    const stretch = at.stretch as Stretch; // there is one in this phase
    const rest = stretch.rest !== null && stretch.rest.at < stretch.to ? stretch.rest : null;
    const end = rest?.at ?? stretch.end;
    const skipped = stretch.charge === 'skipped';
    const stop = Math.min(end, this.servedUntil(skipped));
    const change = this.upcoming();
    if (change !== null && change.date < stop) return this.changeInStretch(change, stretch);
    if (isReached(at) || untilOf(at) < end) this.finish(stop);
    else if (rest !== null) this.standAt(rest.at, { to: stretch.to, whole: rest.whole });
    else if (end < stretch.to) at.stretch = { ...stretch, ...SKIPPED, from: end, end: stretch.to };
    else this.standAt(stretch.to, null);
    return null;
  }

  private changeInStretch(change: CompiledChange, stretch: Stretch): ChangeEvent | null {
    const { at, course } = this;
    const index = at.change;
    at.change += 1;
    const skipped = stretch.charge === 'skipped';
    const event = changeInStretch(
      at,
      course,
      stretch,
      change,
      index,
      skipped || this.terms.endStub === 'prorate',
    );
    if (skipped && isReached(at)) this.finish(change.date);
    return event;
  }

  private standAt(boundary: Day, rest: TimetablePosition['rest']): void {
    this.at.cursor = boundary;
    this.at.rest = rest;
    this.at.stretch = null;
    this.at.phase = 'boundary';
  }

  /** The first day that an ending does not serve where it stops service in mid-stretch; NEVER where it does not. */
  private servedUntil(skipped: boolean): Day {
    return skipped || this.terms.endStub === 'prorate' ? untilOf(this.at) + 1 : NEVER;
  }

  private upcoming(): CompiledChange | null {
    const { changes } = this.terms;
    return this.at.change < changes.length ? (changes[this.at.change] ?? null) : null;
  }

  private finish(end: Day | null): void {
    this.at.phase = 'over';
    this.at.end = end;
    this.at.stretch = null;
  }

  private pauseAt(day: Day): CompiledPause | null {
    const { pauses } = this.terms;
    for (; this.pauseIndex < pauses.length; this.pauseIndex += 1) {
      const pause = pauses[this.pauseIndex];
      if (pause !== undefined && pause.to > day) return pause.from <= day ? pause : null;
    }
    return null;
  }
}

/** What follows what was charged cut, once that ending is lost. */
const SKIPPED = { charge: 'skipped', cut: false, moved: false, rest: null } as const;

/** A copy that shares nothing that a timetable moves on. */
export function copyOfPosition(position: TimetablePosition): TimetablePosition {
  return { ...position, stretch: position.stretch && { ...position.stretch } };
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
    trialEnd: terms.trial === null ? starts : addDuration(starts, terms.trial.length),
    afterTrial: -1,
    moveTo: null,
    rest: null,
    stretch: null,
    end: null,
    exhausted: false,
  };
}

/** New lines on a boundary, or in a trial: nothing is settled for them. */
function unsettled(change: number, date: Day): ChangeEvent {
  const charged = { from: date, to: date, days: 1, whole: 1, full: false };
  return {
    type: 'change',
    from: date,
    to: date,
    change,
    settle: 'none',
    reschedules: false,
    charged,
    moves: null,
  };
}
