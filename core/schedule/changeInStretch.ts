import type { CompiledChange } from '../agreed/terms.ts';
import type { Day } from '../dates/day.ts';
import type { Course } from './course.ts';
import type { ChangeEvent, Stretch, TimetablePosition } from './place.ts';

/** What an ending says at a place: whether `after` is reached, and the last day of an `until`, or infinity. */
export interface Ending {
  readonly reached: boolean;
  readonly until: Day;
}

export function endingOf({ ends, fullPrices }: TimetablePosition): Ending {
  return {
    reached: ends !== null && 'after' in ends && fullPrices >= ends.after,
    until: ends !== null && 'until' in ends ? ends.until : Infinity,
  };
}

/**
 * Rules 7, the time of a change inside a stub or period: `ends` first, then `schedule` or `next`. The place is moved
 * on; what is to be settled of it is given back, or null where there are neither new lines nor anything to settle.
 *
 * @param stopsAtEnding whether an ending stops what runs here on the day after it (`endStub: "prorate"`, or skipped)
 */
export function changeInStretch(
  at: TimetablePosition,
  course: Course,
  stretch: Stretch,
  change: CompiledChange,
  index: number,
  stopsAtEnding: boolean,
): ChangeEvent | null {
  if (change.ends !== undefined) at.ends = change.ends;
  const ending = endingOf(at);
  if (stretch.cut && ending.until + 1 !== stretch.chargedTo) {
    stretch.cut = false;
    stretch.end = Math.min(stretch.end, stretch.chargedTo);
  }
  const stop = (end: Day) => (stopsAtEnding ? Math.min(end, ending.until + 1) : end);
  const settle = stretch.charge === 'charged' && !stretch.moved ? change.settle : 'none';
  const settled = stop(stretch.end);
  const charged = {
    from: stretch.from,
    to: stretch.chargedTo,
    days: stretch.days,
    whole: stretch.whole,
    full: stretch.full,
  };
  const goesOn = !ending.reached && ending.until >= change.date;
  const reschedules = change.schedule !== null && goesOn;
  let moves: ChangeEvent['moves'] = null;
  if (reschedules) course.begin(index, change.date);
  else if (change.next !== null && goesOn) {
    if (change.nextProrates && settle !== 'none')
      moves = { from: stretch.end, to: change.next, stop: stop(change.next) };
    else stretch.moved = true;
    stretch.end = change.next;
    stretch.to = change.next;
    course.countBareFrom(change.next);
  }
  if (change.lines === null && !reschedules && moves === null) return null;
  const event = { type: 'change', from: change.date, to: settled, change: index } as const;
  return { ...event, settle, reschedules, charged, moves };
}
