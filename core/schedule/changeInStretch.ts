import type { CompiledChange } from '../agreed/terms.ts';
import { isReached, NEVER, untilOf } from './ending.ts';
import type { Course } from './course.ts';
import type { ChangeEvent, Stretch, TimetablePosition } from './place.ts';

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
  const until = untilOf(at);
  if (stretch.cut && until + 1 !== stretch.chargedTo) {
    stretch.cut = false;
    stretch.end = Math.min(stretch.end, stretch.chargedTo);
  }
  // What an ending stops, it stops on the day after it.
  const last = stopsAtEnding ? until + 1 : NEVER;
  const settle = stretch.charge === 'charged' && !stretch.moved ? change.settle : 'none';
  const settled = Math.min(stretch.end, last);
  const charged = {
    from: stretch.from,
    to: stretch.chargedTo,
    days: stretch.days,
    whole: stretch.whole,
    full: stretch.full,
  };
  const goesOn = !isReached(at) && until >= change.date;
  const reschedules = change.schedule !== null && goesOn;
  let moves: ChangeEvent['moves'] = null;
  if (reschedules) course.begin(index, change.date);
  else if (change.next !== null && goesOn) {
    if (change.nextProrates && settle !== 'none')
      moves = { from: stretch.end, to: change.next, stop: Math.min(change.next, last) };
    else stretch.moved = true;
    stretch.end = change.next;
    stretch.to = change.next;
    course.countBareFrom(change.next);
  }
  if (change.lines === null && !reschedules && moves === null) return null;
  return {
    type: 'change',
    from: change.date,
    to: settled,
    change: index,
    settle,
    reschedules,
    charged,
    moves,
  };
}
