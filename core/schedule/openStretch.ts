import type { CompiledPause } from '../agreed/terms.ts';
import type { Day } from '../dates/day.ts';
import type { Course } from './course.ts';
import type { Stretch, StretchEvent, TimetablePosition } from './place.ts';

/**
 * Rules 2, stubs, periods, pauses and rests: what begins on the boundary at hand. It is charged in full or for a part,
 * free, or skipped; a `next` on that boundary (rules 7) has moved its end.
 *
 * @param pause the pause that the boundary lies in
 * @param cut the first day that an ending with `endStub: "prorate"` does not serve, or NEVER
 */
export function stretchOpening(
  at: TimetablePosition,
  course: Course,
  pause: CompiledPause | null,
  cut: Day,
): { readonly kind: StretchEvent['kind']; readonly stretch: Stretch } {
  const from = at.cursor;
  const { rest, moveTo } = at;
  const isStub = rest === null && at.index === -1;
  const policy = course.schedule().stub;
  const natural = rest?.to ?? course.boundaries()(at.index + 1);
  const charge = pause !== null ? 'skipped' : isStub && policy === 'free' ? 'free' : 'charged';
  const to = moveTo?.day ?? (pause?.restart ? pause.to : natural);
  // A stub that is charged for the days it is moved to, instead of the price that would have stood here.
  const prorates = moveTo?.prorates === true && charge === 'charged';
  const ownWhole = rest?.whole ?? (isStub ? natural - course.boundaries()(-1) : null);

  let whole = ownWhole ?? (prorates ? natural - from : to - from);
  if (prorates && isStub && policy === 'full') whole = natural - from;
  const isPart = prorates || rest !== null || (isStub && policy !== 'full');
  const full = charge === 'charged' && !isPart && (isStub || cut >= to);
  let days = whole;
  if (prorates) days = Math.min(to, cut) - from;
  else if (isPart) days = (cut < to ? Math.min(natural, cut) : natural) - from;
  else if (!full) days = Math.min(to, cut) - from;

  const chargedTo = Math.min(to, cut);
  const leavesRest = pause?.chargesRest === true && !pause.restart && pause.to < to;
  const isFreeStub = isStub && policy === 'free';
  const stretch: Stretch = {
    from,
    chargedTo,
    end: to,
    to,
    charge,
    days,
    whole,
    full,
    cut: charge === 'charged' && chargedTo < to,
    moved: moveTo !== null && !prorates,
    rest: leavesRest && !isFreeStub ? { at: pause.to, whole } : null,
  };
  return { kind: isStub || rest !== null || prorates ? 'stub' : 'period', stretch };
}
