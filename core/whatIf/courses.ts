import type { LadderPolicy } from '../recovery/ladder.ts';
import type { DeclineClass } from '../recovery/declineCodes.ts';
import type { Climbed } from '../recovery/stepOfCase.ts';
import type { Day } from '../dates/day.ts';
import { MENDS, RETRIES, retryCell } from './cells.ts';
import { courseFrom, FIRST_MEND, type Course } from './course.ts';
import type { PastDecline } from './history.ts';

/** Declines that failed on one day for one class: they take one course. */
export interface Alike {
  readonly failedOn: Day;
  readonly declineClass: DeclineClass;
  readonly amounts: readonly number[];
}

/** Declines by the day of the failure and the class, in the order in which each first comes. */
export function groupAlike(declines: readonly PastDecline[]): readonly Alike[] {
  const found = new Map<string, { failedOn: Day; declineClass: DeclineClass; amounts: number[] }>();
  for (const { failedOn, declineClass, amount } of declines) {
    const key = `${failedOn} ${declineClass}`;
    const group = found.get(key) ?? { failedOn, declineClass, amounts: [] };
    if (group.amounts.length === 0) found.set(key, group);
    group.amounts.push(amount);
  }
  return [...found.values()];
}

/** The course of each of some groups on a ladder. Where every day is alike to it, only what its retries depend on differs. */
export function* coursesOf(climbed: Climbed, groups: readonly Alike[]): Generator<Course> {
  const alike = isEveryDayAlike(climbed.ladder);
  const kept = new Map<DeclineClass, Course>();
  for (const { failedOn, declineClass } of groups) {
    const known = kept.get(declineClass);
    const course = known ? onDay(known, declineClass, failedOn) : courseFrom(climbed, declineClass, failedOn);
    if (alike && !known) kept.set(declineClass, course);
    yield course;
  }
}

/** Whether a ladder is climbed alike whatever the day of the failure is. */
export function isEveryDayAlike({ manner }: LadderPolicy): boolean {
  return manner.payDays.length === 0 && !manner.workingDays;
}

/** A course that is the same on every day, begun on this one. */
function onDay(course: Course, declineClass: DeclineClass, failedOn: Day): Course {
  const cells = course.cells.slice();
  for (const i of course.retriesAt) {
    const since = course.days[i] ?? 0;
    cells[i] = retryCell(declineClass, failedOn + since, since, course.retries[i] ?? 1);
  }
  return { ...course, cells };
}

/** The courses that past declines would have taken on a ladder, one after another in flat arrays, for many draws. */
export interface Packed {
  /** Of each group: where its chances begin, and, one place further, end. */
  readonly starts: Int32Array;
  /** Of each group: where its declines begin, and end. */
  readonly declines: Int32Array;
  readonly amounts: Float64Array;
  readonly allRetries: Int32Array;
  readonly allLetters: Int32Array;
  /** Of each chance. */
  readonly cells: Uint16Array;
  readonly days: Uint16Array;
  readonly retries: Uint16Array;
  readonly letters: Uint16Array;
  /** The cells that occur at all, those of retries and those of mending. */
  readonly asked: { readonly retries: readonly number[]; readonly mends: readonly number[] };
  readonly longest: number;
  /** As many chances as the longest course has. */
  readonly most: number;
}

export function packCourses(climbed: Climbed, groups: readonly Alike[]): Packed {
  const courses = [...coursesOf(climbed, groups)];
  const sums = (counts: readonly number[]) => {
    const starts = new Int32Array(counts.length + 1);
    counts.forEach((count, i) => (starts[i + 1] = (starts[i] ?? 0) + count));
    return starts;
  };
  const flat = (of: (course: Course) => readonly number[]) => Uint16Array.from(courses.flatMap(of));
  const cells = flat((course) => course.cells);
  const all = [...new Set(cells)];
  const greatest = (of: (course: Course) => number) =>
    courses.reduce((most, course) => Math.max(most, of(course)), 0);
  return {
    starts: sums(courses.map((course) => course.cells.length)),
    declines: sums(groups.map(({ amounts }) => amounts.length)),
    amounts: Float64Array.from(groups.flatMap(({ amounts }) => amounts)),
    allRetries: Int32Array.from(courses, ({ allRetries }) => allRetries),
    allLetters: Int32Array.from(courses, ({ allLetters }) => allLetters),
    cells,
    days: flat((course) => course.days),
    retries: flat((course) => course.retries),
    letters: flat((course) => course.letters),
    asked: {
      retries: all.filter((cell) => cell < FIRST_MEND),
      mends: all.filter((cell) => cell >= FIRST_MEND).map((cell) => cell - FIRST_MEND),
    },
    longest: greatest(({ ends }) => ends),
    most: greatest((course) => course.cells.length),
  };
}

/** The chances of all cells, those of mending after those of retries. */
export const ALL_CELLS = RETRIES.size + MENDS.size;
