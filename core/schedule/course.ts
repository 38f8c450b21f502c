import type { CompiledRecurring, CompiledSchedule } from '../agreed/terms.ts';
import type { Day } from '../dates/day.ts';
import { boundariesFrom, type Boundaries } from './boundaries.ts';
import type { TimetablePosition } from './place.ts';

/**
 * The schedule that is in force at a place, and the boundaries that it counts (rules 2 and 7). It is worked out from
 * the place when first asked for, and again whenever a change, a moved date or a restart begins another.
 */
export class Course {
  private counted: Boundaries | null = null;
  private inForce: CompiledSchedule | null = null;

  constructor(
    private readonly terms: CompiledRecurring,
    private readonly at: TimetablePosition,
  ) {}

  schedule(): CompiledSchedule {
    const { scheduleOf } = this.at;
    const ofChange = scheduleOf < 0 ? null : this.terms.changes[scheduleOf]?.schedule;
    this.inForce ??= ofChange ?? this.terms.schedule;
    return this.inForce;
  }

  boundaries(): Boundaries {
    const { interval, on } = this.schedule();
    this.counted ??= boundariesFrom(this.at.from, interval, this.at.bare ? null : on);
    return this.counted;
  }

  /** Begins a schedule on A: its stub, if it has one, is next. */
  begin(scheduleOf: number, from: Day): void {
    const { at } = this;
    at.scheduleOf = scheduleOf;
    at.from = from;
    at.bare = false;
    at.cursor = from;
    at.phase = 'boundary';
    at.stretch = null;
    at.rest = null;
    this.inForce = null;
    this.counted = null;
    at.index = this.boundaries()(0) > from ? -1 : 0;
  }

  /** Boundaries count from here by the interval alone, without anchor and without a stub. */
  countBareFrom(from: Day): void {
    this.at.bare = true;
    this.at.from = from;
    this.at.index = 0;
    this.counted = null;
  }
}
