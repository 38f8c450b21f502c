import type { WorkingDays } from '../dates/workingDay.ts';
import type { DeclineClass } from '../recovery/declineCodes.ts';
import type { Day } from '../dates/day.ts';
import type { Climbed } from '../recovery/stepOfCase.ts';
import { MOST_DAYS, type LadderPolicy, type RetryManner, type Rung } from '../recovery/ladder.ts';
import { STARTING_LADDERS, startingPolicy, type StartingLadderKey } from '../recovery/startingLadders.ts';
import { cellOfDay, retryCellBut } from './cells.ts';
import { courseFrom, FIRST_MEND, LONGEST } from './course.ts';
import { groupAlike, isEveryDayAlike, type Alike } from './courses.ts';
import { chancesIn, expectedOf, type Expected } from './expected.ts';
import type { PastDecline } from './history.ts';
import type { Model } from './model.ts';

/** What a suggested ladder is to be. */
export interface Wanted {
  /** Days after the failure on which it ends. */
  readonly endsOn: number;
  /** A letter, and a retry, is worth it that brings at least so much, in minor units of the home currency. */
  readonly letterWorth: number;
  readonly retryWorth: number;
  readonly finalAction: LadderPolicy['finalAction'];
}

/** What is expected of a ladder for all past declines, by the most likely chances. */
export interface Worth {
  readonly money: number;
  readonly recovered: number;
  readonly retries: number;
  readonly letters: number;
}

export interface Suggested {
  readonly policy: LadderPolicy;
  readonly worth: Worth;
  /** For each rung: how much less would be recovered without its retry, and without its letter. */
  readonly rungs: readonly { readonly retryBrings: number | null; readonly letterBrings: number | null }[];
  /** How many ladders were weighed. */
  readonly weighed: number;
}

/** A letter is written on the first day and so many days before the end, and no two within so many. */
export const LETTERS_APART = 3;
export const MOST_LETTERS = 6;
const MOST_RETRIES = 8;
/** Ladders are weighed on so many groups of declines at most. */
const WEIGHED = 600;
/** It is gone from so many of the ladders to start from: the best of them. */
const BEGUN = 2;

/** Retries may wait for these days of the month. */
const PAY_DAYS: Pick<RetryManner, 'payDays' | 'payDayWithin'> = { payDays: [1, 15, 25, 31], payDayWithin: 4 };

/** The day of the last letter: nobody loses it without one shortly before. */
const lastOf = (endsOn: number) => endsOn - LETTERS_APART;

interface Sketch {
  readonly retries: readonly number[];
  readonly letters: readonly number[];
}

/**
 * The ladder that is expected to bring most, less what its letters and retries are said to be worth: found by going from
 * the best ladders to start from to the best of their neighbours (a retry or letter more, fewer, or on another day) until none is better.
 */
export function suggestLadder(
  model: Model,
  declines: readonly PastDecline[],
  wanted: Wanted,
  usual: { readonly manner: RetryManner; readonly calendar: WorkingDays },
): Suggested {
  const groups = groupAlike(declines);
  // Enough of them tell which ladder is better; what it is worth is said of all.
  const every = Math.max(Math.ceil(groups.length / WEIGHED), 1);
  const weigh = new Weighing(
    model,
    groups.filter((_, i) => i % every === 0),
    usual.calendar,
  );
  const ofAll = new Weighing(model, groups, usual.calendar);
  const gain = (policy: LadderPolicy) => {
    const { money, letters, retries } = weigh.worthOf(policy);
    return money - letters * wanted.letterWorth - retries * wanted.retryWorth;
  };
  const plain = { ...usual.manner, payDays: [] };
  let best: { sketch: Sketch; policy: LadderPolicy; gain: number } | null = null;
  const starts = startsWithin(wanted.endsOn)
    .map((sketch) => ({ sketch, policy: policyOf(sketch, wanted, plain) }))
    .map((start) => ({ ...start, gain: gain(start.policy) }))
    .toSorted((a, b) => b.gain - a.gain)
    .slice(0, BEGUN);
  for (const start of starts) {
    let here = start;
    for (;;) {
      let next = here;
      for (const sketch of neighbours(here.sketch, wanted.endsOn)) {
        const to = policyOf(sketch, wanted, plain);
        const gained = gain(to);
        if (gained > next.gain + 1e-9 * Math.abs(next.gain)) next = { sketch, policy: to, gain: gained };
      }
      if (next === here) break;
      here = next;
    }
    if (best === null || here.gain > best.gain) best = here;
  }
  if (best === null) throw new Error('There is a ladder to start from.');
  const around = policyOf(best.sketch, wanted, { ...plain, ...PAY_DAYS });
  const policy = gain(around) > best.gain ? around : best.policy;
  const worth = ofAll.worthOf(policy);
  return {
    ...{ policy, worth },
    rungs: policy.rungs.map((rung, at) => {
      const without = (less: Partial<Rung>) => {
        const rungs = policy.rungs.map((one, i) => (i === at ? { ...one, ...less } : one));
        return worth.money - ofAll.worthOf({ ...policy, rungs: rungs.filter(doesSomething) }).money;
      };
      return {
        retryBrings: rung.retry ? without({ retry: false }) : null,
        letterBrings: rung.letter ? without({ letter: false }) : null,
      };
    }),
    weighed: weigh.count,
  };
}

const doesSomething = ({ retry, letter }: Rung) => retry || letter;

/** The ladders to start from, as far as they fit before the end. */
function startsWithin(endsOn: number): readonly Sketch[] {
  const keys = Object.keys(STARTING_LADDERS) as StartingLadderKey[];
  return keys.map((key) => {
    const { rungs } = startingPolicy(key);
    const within = (wanted: (rung: Rung) => boolean, last: number) =>
      rungs.filter((rung) => wanted(rung) && rung.afterDays <= last).map(({ afterDays }) => afterDays);
    return {
      retries: within(({ retry }) => retry, endsOn - 1),
      letters: [
        0,
        ...within(
          ({ letter, afterDays }) => letter && afterDays >= LETTERS_APART,
          lastOf(endsOn) - LETTERS_APART,
        ),
        lastOf(endsOn),
      ],
    };
  });
}

function* neighbours({ retries, letters }: Sketch, endsOn: number): Generator<Sketch> {
  for (const changed of changes(retries, { first: 1, last: endsOn - 1, apart: 1, most: MOST_RETRIES }))
    yield { retries: changed, letters };
  const last = lastOf(endsOn);
  const bounds = {
    first: LETTERS_APART,
    last: last - LETTERS_APART,
    apart: LETTERS_APART,
    most: MOST_LETTERS - 2,
  };
  for (const changed of changes(letters.slice(1, -1), bounds))
    yield { retries, letters: [0, ...changed, last] };
}

interface Bounds {
  readonly first: number;
  readonly last: number;
  readonly apart: number;
  readonly most: number;
}

function* changes(days: readonly number[], bounds: Bounds): Generator<readonly number[]> {
  const fits = (day: number, others: readonly number[]) =>
    day >= bounds.first &&
    day <= bounds.last &&
    others.every((other) => Math.abs(other - day) >= bounds.apart);
  for (const [i, day] of days.entries()) {
    const others = days.toSpliced(i, 1);
    yield others;
    for (const by of [-3, -2, -1, 1, 2, 3])
      if (fits(day + by, others)) yield [...others, day + by].toSorted((a, b) => a - b);
  }
  if (days.length >= bounds.most) return;
  for (let day = bounds.first; day <= bounds.last; day += 1)
    if (fits(day, days)) yield [...days, day].toSorted((a, b) => a - b);
}

function policyOf({ retries, letters }: Sketch, wanted: Wanted, manner: RetryManner): LadderPolicy {
  const days = [...new Set([...retries, ...letters])].toSorted((a, b) => a - b);
  return {
    // A rung that only retries is for the declines that may be tried again.
    rungs: days.map((afterDays) => {
      const letter = letters.includes(afterDays);
      const rung = { afterDays, retry: retries.includes(afterDays), letter };
      return letter ? rung : { ...rung, classes: ['wait', 'soon'] as const };
    }),
    ...{ finalAction: wanted.finalAction, finalAfterDays: Math.min(wanted.endsOn, MOST_DAYS), manner },
  };
}

/** Weighs one ladder after another against the same declines. */
class Weighing {
  count = 0;
  readonly #chances: Float64Array;
  readonly #calendar: WorkingDays;
  readonly #groups: readonly (Alike & { readonly sum: number })[];
  /** What each day adds to the cell of a retry, from the first day of all on. */
  readonly #ofDays: Uint16Array;
  readonly #first: Day;

  constructor(model: Model, groups: readonly Alike[], calendar: WorkingDays) {
    this.#chances = chancesIn(model);
    this.#calendar = calendar;
    this.#groups = groups.map((group) => ({
      ...group,
      sum: group.amounts.reduce((sum, amount) => sum + amount, 0),
    }));
    const days = this.#groups.map(({ failedOn }) => failedOn);
    this.#first = days.reduce((first, day) => Math.min(first, day), Infinity);
    const last = days.reduce((latest, day) => Math.max(latest, day), -Infinity) + LONGEST;
    this.#ofDays = Uint16Array.from({ length: Math.max(last - this.#first + 1, 0) }, (_, i) =>
      cellOfDay(this.#first + i),
    );
  }

  worthOf(ladder: LadderPolicy): Worth {
    this.count += 1;
    const climbed = { ladder, calendar: this.#calendar };
    return isEveryDayAlike(ladder) ? this.#worthOfAlike(climbed) : this.#worthOfEach(climbed);
  }

  #worthOfEach(climbed: Climbed): Worth {
    const worth = { money: 0, recovered: 0, retries: 0, letters: 0 };
    for (const { failedOn, declineClass, amounts, sum } of this.#groups) {
      const course = courseFrom(climbed, declineClass, failedOn);
      add(worth, expectedOf(course, this.#chances), amounts.length, sum);
    }
    return worth;
  }

  /** A ladder that is climbed alike on every day takes one course for each class; its retries alone differ by their days. */
  #worthOfAlike(climbed: Climbed): Worth {
    const worth = { money: 0, recovered: 0, retries: 0, letters: 0 };
    const strides = new Map<DeclineClass, readonly Stride[]>();
    const chances = this.#chances;
    for (const { failedOn, declineClass, amounts, sum } of this.#groups) {
      let of = strides.get(declineClass);
      if (!of) strides.set(declineClass, (of = stridesOf(climbed, declineClass, failedOn, chances)));
      const from = failedOn - this.#first;
      let open = 1;
      let retries = 0;
      let letters = 0;
      for (const { stays, writes, retryBut, since } of of) {
        letters += open * writes;
        open *= stays;
        if (retryBut < 0) continue;
        retries += open;
        open *= 1 - (chances[retryBut + (this.#ofDays[from + since] ?? 0)] ?? 0);
      }
      add(worth, { paid: 1 - open, retries, letters }, amounts.length, sum);
    }
    return worth;
  }
}

function add(
  worth: { -readonly [K in keyof Worth]: number },
  of: Expected,
  count: number,
  sum: number,
): void {
  worth.money += of.paid * sum;
  worth.recovered += of.paid * count;
  worth.retries += of.retries * count;
  worth.letters += of.letters * count;
}

/** A stretch of a course: letters at its beginning, the chance that nothing is mended in it, and a retry at its end. */
interface Stride {
  readonly writes: number;
  readonly stays: number;
  /** The cell of the retry but for its day; −1: none. */
  readonly retryBut: number;
  readonly since: number;
}

function stridesOf(
  climbed: Climbed,
  declineClass: DeclineClass,
  day: Day,
  chances: Float64Array,
): readonly Stride[] {
  const course = courseFrom(climbed, declineClass, day);
  const strides: Stride[] = [];
  let stays = 1;
  let writes = 0;
  let written = 0;
  const end = (retryBut: number, since: number) => {
    strides.push({ stays, writes, retryBut, since });
    stays = 1;
    writes = 0;
  };
  course.cells.forEach((cell, i) => {
    const since = course.days[i] ?? 0;
    const letters = course.letters[i] ?? 0;
    if (cell < FIRST_MEND) return end(retryCellBut(declineClass, since, course.retries[i] ?? 1), since);
    if (letters > written) {
      if (stays < 1) end(-1, since);
      writes += letters - written;
      written = letters;
    }
    stays *= 1 - (chances[cell] ?? 0);
  });
  end(-1, 0);
  return strides;
}
