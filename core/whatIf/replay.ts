import type { Climbed } from '../recovery/stepOfCase.ts';
import { MENDS, RETRIES } from './cells.ts';
import { Chance } from './chance.ts';
import { FIRST_MEND } from './course.ts';
import { ALL_CELLS, groupAlike, packCourses, type Packed } from './courses.ts';
import type { PastDecline } from './history.ts';
import { chancesOf, drawEffects } from './logistic.ts';
import type { Model } from './model.ts';

/** What is expected, and within what it lies in nine draws of ten. */
export interface Estimate {
  readonly middle: number;
  readonly low: number;
  readonly high: number;
}

/** What a ladder would have made of the past declines. */
export interface Replayed {
  /** In minor units of the home currency. */
  readonly money: Estimate;
  /** Customers who paid. */
  readonly recovered: Estimate;
  /** Retries, and letters, of all cases for each customer who paid. */
  readonly retriesEach: Estimate;
  readonly lettersEach: Estimate;
  /** Days from the failure until it was paid, of those who paid. */
  readonly days: Estimate;
  /** Of all declines, the share that is paid so many days after the failure: from day 0 on. */
  readonly paidBy: readonly number[];
  /** Money more than the first of the ladders that are compared. */
  readonly moreThanFirst: Estimate;
}

/** Shares of the draws between which an estimate lies. */
export const INTERVAL = [0.05, 0.95] as const;

/**
 * Replays past declines on each of some ladders, so many times: each time the effects are drawn as they may be, and then for
 * each decline by which of its chances it is paid, if by any. Every ladder is drawn the same effects and the same luck, so that
 * what differs is the ladders.
 * @param draws 1 or more
 */
export function replay(
  model: Model,
  declines: readonly PastDecline[],
  ladders: readonly Climbed[],
  { draws, seed }: { readonly draws: number; readonly seed: number },
): readonly Replayed[] {
  const chance = new Chance(seed);
  const groups = groupAlike(declines);
  const each = ladders.map((climbed) => {
    const packed = packCourses(climbed, groups);
    return { packed, tally: new Tally(draws, packed) };
  });
  const chances = new Float64Array(ALL_CELLS);
  const luck = new Float64Array(declines.length);
  for (let draw = 0; draw < draws; draw += 1) {
    const retries = drawEffects(model.retries, chance);
    const mends = drawEffects(model.mends, chance);
    for (let i = 0; i < luck.length; i += 1) luck[i] = chance.uniform();
    for (const { packed, tally } of each) {
      chancesOf(RETRIES, retries, packed.asked.retries, chances);
      chancesOf(MENDS, mends, packed.asked.mends, chances.subarray(FIRST_MEND));
      playOnce(packed, chances, luck, tally, draw);
    }
  }
  const [first] = each;
  return each.map(({ tally }) => tally.summed(declines.length, first?.tally ?? tally));
}

const GUIDES = 32;

/** One draw: every decline takes its course until a chance of it comes about. */
function playOnce(
  packed: Packed,
  chances: Float64Array,
  luck: Float64Array,
  tally: Tally,
  draw: number,
): void {
  const { starts, declines, amounts, cells } = packed;
  const { reached, guide } = tally;
  let money = 0;
  let recovered = 0;
  let retries = 0;
  let letters = 0;
  let days = 0;
  for (let group = 0; group + 1 < starts.length; group += 1) {
    const start = starts[group] ?? 0;
    const count = (starts[group + 1] ?? 0) - start;
    let open = 1;
    let guided = 0;
    for (let i = 0; i < count; i += 1) {
      open *= 1 - (chances[cells[start + i] ?? 0] ?? 0);
      reached[i] = 1 - open;
      while (guided < GUIDES * (1 - open)) guide[guided++] = i;
    }
    const end = declines[group + 1] ?? 0;
    for (let at = declines[group] ?? 0; at < end; at += 1) {
      const u = luck[at] ?? 1;
      if (u >= 1 - open) {
        retries += packed.allRetries[group] ?? 0;
        letters += packed.allLetters[group] ?? 0;
        continue;
      }
      let i = guide[Math.floor(u * GUIDES)] ?? 0;
      while ((reached[i] ?? 1) <= u) i += 1;
      i += start;
      const day = packed.days[i] ?? 0;
      money += amounts[at] ?? 0;
      recovered += 1;
      retries += packed.retries[i] ?? 0;
      letters += packed.letters[i] ?? 0;
      days += day;
      tally.paidOn[day] = (tally.paidOn[day] ?? 0) + 1;
    }
  }
  tally.money[draw] = money;
  tally.recovered[draw] = recovered;
  tally.retries[draw] = retries;
  tally.letters[draw] = letters;
  tally.days[draw] = days;
}

/** What each draw came to. */
class Tally {
  readonly money: Float64Array;
  readonly recovered: Float64Array;
  readonly retries: Float64Array;
  readonly letters: Float64Array;
  readonly days: Float64Array;
  readonly paidOn: Float64Array;

  /** The chance that a decline is paid until each of its chances, of the group in hand. */
  readonly reached: Float64Array;
  /** The first chance that may be above each of {@link GUIDES} shares: where the one that a draw falls on is looked for (Chen and Asau, 1974). */
  readonly guide = new Uint16Array(GUIDES + 1);

  constructor(draws: number, { longest, most }: Packed) {
    this.reached = new Float64Array(most);
    this.money = new Float64Array(draws);
    this.recovered = new Float64Array(draws);
    this.retries = new Float64Array(draws);
    this.letters = new Float64Array(draws);
    this.days = new Float64Array(draws);
    this.paidOn = new Float64Array(longest + 1);
  }

  summed(declines: number, first: Tally): Replayed {
    const { money, recovered } = this;
    const perPaid = (sums: Float64Array) =>
      estimate(sums.map((sum, i) => sum / (recovered[i] ?? 0)).filter(Number.isFinite));
    let paid = 0;
    const all = Math.max(declines * money.length, 1);
    return {
      money: estimate(money),
      recovered: estimate(recovered),
      retriesEach: perPaid(this.retries),
      lettersEach: perPaid(this.letters),
      days: perPaid(this.days),
      paidBy: Array.from(this.paidOn, (count) => (paid += count) / all),
      moreThanFirst: estimate(money.map((sum, i) => sum - (first.money[i] ?? 0))),
    };
  }
}

/** The middle of some values, and between what nine of ten of them lie; zeros of none. */
export function estimate(values: Float64Array): Estimate {
  const sorted = values.toSorted();
  const at = (share: number) => sorted[Math.round(share * (sorted.length - 1))] ?? 0;
  return { middle: at(0.5), low: at(INTERVAL[0]), high: at(INTERVAL[1]) };
}
