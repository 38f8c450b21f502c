import type { Climbed } from '../recovery/stepOfCase.ts';
import { MENDS, RETRIES } from './cells.ts';
import { courseOf, FIRST_MEND, type Course, type Sofar } from './course.ts';
import { ALL_CELLS } from './courses.ts';
import { likelyChances, type Model } from './model.ts';
import type { CaseStanding } from '../recovery/stepOfCase.ts';

/** The chance of each cell by the most likely effects of a model, those of mending after those of retries. */
export function chancesIn(model: Model): Float64Array {
  const chances = new Float64Array(ALL_CELLS);
  chances.set(likelyChances(RETRIES, model.retries));
  chances.set(likelyChances(MENDS, model.mends), FIRST_MEND);
  return chances;
}

/** What is expected of one course. */
export interface Expected {
  /** The chance that it is paid, 0 to 1. */
  readonly paid: number;
  readonly retries: number;
  readonly letters: number;
}

/** What is expected of a course, by the chances of its cells. */
export function expectedOf(course: Course, chances: Float64Array): Expected {
  let open = 1;
  let retries = 0;
  let letters = 0;
  for (let i = 0; i < course.cells.length; i += 1) {
    const p = chances[course.cells[i] ?? 0] ?? 0;
    retries += open * p * (course.retries[i] ?? 0);
    letters += open * p * (course.letters[i] ?? 0);
    open *= 1 - p;
  }
  return {
    paid: 1 - open,
    retries: retries + open * course.allRetries,
    letters: letters + open * course.allLetters,
  };
}

/** The chance that an open case is recovered from a day on, before it is given up, 0 to 1. */
export function chanceOfCase(
  standing: CaseStanding,
  climbed: Climbed,
  so: Sofar,
  chances: Float64Array,
): number {
  return expectedOf(courseOf(standing, climbed, so), chances).paid;
}
