import type { Day } from '../dates/day.ts';
import { endOf } from './listPayments.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import { Timetable } from '../schedule/timetable.ts';

/** The days on which a subscription's life turns: the first day after its trial (null without one), and its end. */
export interface Outline {
  readonly trialEnds: Day | null;
  readonly ends: Day | null;
}

/** Reads the turning days off the timetable, with every change that the terms hold. */
export function outlineOf(terms: CompiledTerms): Outline {
  return { trialEnds: trialEndOf(terms), ends: endOf(terms) };
}

function trialEndOf(terms: CompiledTerms): Day | null {
  if (!terms.recurring?.trial) return null;
  const timetable = new Timetable(terms.recurring, terms.starts);
  let trialEnds: Day | null = null;
  for (let event = timetable.next(); event !== null; event = timetable.next()) {
    if (event.type === 'trial') trialEnds = event.to;
    if (event.type === 'stretch') return event.from;
  }
  return trialEnds;
}
