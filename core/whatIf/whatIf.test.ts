import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { playPast, AROUND_PAY_DAY, type Truth } from '../../testing/pastRecovery.ts';
import { toDay } from '../dates/day.ts';
import { EVERY_DAY } from '../dates/workingDay.ts';
import { checkLadder } from '../recovery/checkLadder.ts';
import { DECLINE_CLASSES } from '../recovery/declineCodes.ts';
import { ladderDays } from '../recovery/ladderDays.ts';
import { STARTING_LADDERS, startingPolicy, type StartingLadderKey } from '../recovery/startingLadders.ts';
import { MENDS, RETRIES, mendCell, retryCell } from './cells.ts';
import { Chance } from './chance.ts';
import { checkModel } from './checkModel.ts';
import { courseFrom, FIRST_MEND } from './course.ts';
import { chancesIn, expectedOf } from './expected.ts';
import type { PastRecovery } from './history.ts';
import { drawEffects, fitLogistic, nothingCounted } from './logistic.ts';
import { fitModel, learned } from './model.ts';
import { replay } from './replay.ts';
import { LETTERS_APART, suggestLadder } from './suggest.ts';

const climbed = (key: StartingLadderKey) => ({ ladder: startingPolicy(key), calendar: EVERY_DAY });
const FROM = toDay('2026-01-01');
const past = (
  count: number,
  seed: number,
  key: StartingLadderKey = 'steady',
  truth: Truth = AROUND_PAY_DAY,
) => playPast({ count, from: FROM, days: 365 }, climbed(key), truth, new Chance(seed));
const NOTHING: PastRecovery = { declines: [], retries: [], ladders: [] };
const keys = Object.keys(STARTING_LADDERS) as StartingLadderKey[];
const anyKey = fc.constantFrom(...keys);
const anyClass = fc.constantFrom(...DECLINE_CLASSES);
const anyDay = fc.integer({ min: FROM, max: FROM + 800 });

describe('cells', () => {
  test('each cell is of one value of each part, and no two cells of the same values', () => {
    for (const cells of [RETRIES, MENDS]) {
      const made = new Set(
        Array.from({ length: cells.size }, (_, cell) => {
          const parts = cells.effectsOf(cell).map((at) => cells.effects[at]?.of);
          expect(new Set(parts).size).toBe(parts.length);
          return cells.effectsOf(cell).join();
        }),
      );
      expect(made.size).toBe(cells.size);
    }
  });

  test('what happened is in the cell of its values', () => {
    const valuesOf = (cells: typeof RETRIES, cell: number) =>
      cells.effectsOf(cell).map((at) => cells.effects[at]?.value);
    // 28 February 2027 is a Sunday, and the last of its month.
    const retry = retryCell('soon', toDay('2027-02-28'), 10, 7);
    expect(valuesOf(RETRIES, retry)).toEqual([
      '',
      'the bank was away',
      '25th–last',
      'Sunday',
      '10–19',
      'fourth or later',
    ]);
    expect(valuesOf(MENDS, mendCell('never', 2, 7))).toEqual(['', 'never again', '7–13', 'two']);
    expect(valuesOf(MENDS, mendCell('wait', 0, null)).slice(2)).toEqual(['no letter yet', 'none']);
  });
});

describe('the course of a ladder', () => {
  test('tries and writes on the days that the ladder is climbed, and ends when it does', () => {
    fc.assert(
      fc.property(anyKey, anyClass, anyDay, (key, declineClass, day) => {
        const on = climbed(key);
        const course = courseFrom(on, declineClass, day);
        const { rungs, finalOn } = ladderDays(on.ladder, day, declineClass, EVERY_DAY);
        const climbs = rungs.filter(({ rung }) => on.ladder.rungs[rung]);
        const wrote = new Set(
          climbs.flatMap(({ rung, on: at }) => (on.ladder.rungs[rung]?.letter ? [at] : [])),
        );
        if (declineClass !== 'soon') {
          const letterDays = course.days.flatMap((since, i) =>
            (course.letters[i] ?? 0) > (course.letters[i - 1] ?? 0) ? [day + since] : [],
          );
          expect(letterDays).toEqual([...wrote].toSorted((a, b) => a - b));
          expect(course.ends).toBe(finalOn - day);
        }
        // One chance of mending on each day that it is open.
        const mends = course.days.filter((_, i) => (course.cells[i] ?? 0) >= FIRST_MEND);
        expect(mends).toEqual(Array.from({ length: course.ends }, (_, i) => i));
        expect(course.allRetries).toBe(course.retriesAt.length);
        if (declineClass === 'ask' || declineClass === 'never') expect(course.allRetries).toBe(0);
      }),
      { numRuns: 300 },
    );
  });
});

describe('the fit', () => {
  test('of nothing is the priors, and their draws lie about them as far as they say', () => {
    const { mode, spread } = fitLogistic(RETRIES, nothingCounted(RETRIES));
    const chance = new Chance(7);
    const draws = Array.from({ length: 4000 }, () => drawEffects({ mode, spread }, chance));
    RETRIES.effects.forEach(({ prior: [mean, deviation] }, i) => {
      expect(mode[i]).toBeCloseTo(mean, 9);
      const values = draws.map((draw) => draw[i] ?? NaN);
      const middle = values.reduce((sum, value) => sum + value, 0) / values.length;
      const off = Math.sqrt(values.reduce((sum, value) => sum + (value - middle) ** 2, 0) / values.length);
      expect(Math.abs(middle - mean)).toBeLessThan(0.1 * deviation);
      expect(off / deviation).toBeGreaterThan(0.93);
      expect(off / deviation).toBeLessThan(1.07);
    });
  });

  test('stands where no small step makes what was counted likelier', () => {
    const counted = nothingCounted(RETRIES);
    const chance = new Chance(3);
    for (let i = 0; i < 400; i += 1) {
      const cell = Math.floor(chance.uniform() * RETRIES.size);
      counted.tried[cell] = (counted.tried[cell] ?? 0) + 1;
      if (chance.uniform() < 0.3) counted.came[cell] = (counted.came[cell] ?? 0) + 1;
    }
    const likelihood = (effects: Float64Array) => {
      let sum = 0;
      RETRIES.effects.forEach(({ prior: [mean, deviation] }, i) => {
        sum -= ((effects[i] ?? 0) - mean) ** 2 / (2 * deviation ** 2);
      });
      counted.tried.forEach((tried, cell) => {
        const x = RETRIES.effectsOf(cell).reduce((all, at) => all + (effects[at] ?? 0), 0);
        sum += (counted.came[cell] ?? 0) * x - tried * Math.log1p(Math.exp(x));
      });
      return sum;
    };
    const { mode } = fitLogistic(RETRIES, counted);
    const best = likelihood(mode);
    for (const [i] of mode.entries())
      for (const by of [-0.01, 0.01])
        expect(likelihood(mode.map((x, j) => (i === j ? x + by : x)))).toBeLessThan(best);
  });

  test('finds how the made-up business behaves', () => {
    const lived = past(4000, 11);
    const odds = learned(fitModel(lived), lived).retries;
    const of = (value: string) => odds.find((one) => one.value === value);
    const payDay = of('25th–last');
    const middle = of('10th–14th');
    // The true odds differ by (0.6 / 0.4) / (0.12 / 0.88) = 11.
    expect((payDay?.low ?? 0) / (middle?.high ?? 1)).toBeGreaterThan(2.5);
    expect(of('the bank was away')?.low).toBeGreaterThan(3);
    expect(
      odds.filter(({ of: one }) => one === 'weekday').every(({ low, high }) => low < 1.15 && high > 0.85),
    ).toBe(true);
  });
});

describe('the replay', () => {
  test('of one decline brings what its course is expected to', () => {
    fc.assert(
      fc.property(anyKey, anyClass, anyDay, (key, declineClass, failedOn) => {
        const lived = past(300, 5);
        const model = fitModel(lived);
        const declines = Array.from({ length: 50 }, () => ({
          ...{ failedOn, declineClass, amount: 100, lettersOn: [], overOn: failedOn },
          ...{ outcome: 'not known' as const, ladder: 0 },
        }));
        const [replayed] = replay(model, declines, [climbed(key)], { draws: 400, seed: 2 });
        const { paid } = expectedOf(courseFrom(climbed(key), declineClass, failedOn), chancesIn(model));
        expect(Math.abs((replayed?.recovered.middle ?? 0) / 50 - paid)).toBeLessThan(0.12);
        expect(replayed?.money.middle).toBe((replayed?.recovered.middle ?? 0) * 100);
        const by = replayed?.paidBy ?? [];
        expect(by.every((share, day) => day === 0 || share >= (by[day - 1] ?? 0))).toBe(true);
      }),
      { numRuns: 25 },
    );
  });

  test('says of another ladder, within its interval, what that really brings', () => {
    // Fitted to what one ladder lived through; what the other would have brought is then played by the truth itself.
    const lived = past(3000, 21);
    const model = fitModel(lived);
    const [own, other] = replay(model, lived.declines, [climbed('steady'), climbed('payday')], {
      draws: 300,
      seed: 1,
    });
    const truth = Array.from(
      { length: 6 },
      (_, i) => past(3000, 100 + i, 'payday').declines.filter(({ outcome }) => outcome !== 'given up').length,
    );
    const middle = truth.reduce((sum, count) => sum + count, 0) / truth.length;
    expect(middle).toBeGreaterThan((other?.recovered.low ?? 0) - 30);
    expect(middle).toBeLessThan((other?.recovered.high ?? 0) + 30);
    // Around pay-day there is money: it is plainly better, and said to be so.
    expect(other?.moreThanFirst.low).toBeGreaterThan(0);
    expect(own?.moreThanFirst).toEqual({ middle: 0, low: 0, high: 0 });
    expect(other?.days.middle).toBeGreaterThan(own?.days.middle ?? Infinity);
  });

  test('knows less of less: the interval narrows as more has happened', () => {
    const widthOf = (count: number) => {
      const few = past(count, 31);
      const [replayed] = replay(fitModel(few), few.declines, [climbed('patient')], { draws: 400, seed: 1 });
      const { low, high } = replayed?.recovered ?? { low: 0, high: 0 };
      return (high - low) / count;
    };
    expect(widthOf(60)).toBeGreaterThan(2 * widthOf(3000));
  });

  test('comes out the same for the same seed, and of nothing is nothing', () => {
    const lived = past(200, 41);
    const once = () => replay(fitModel(lived), lived.declines, [climbed('brisk')], { draws: 50, seed: 9 });
    expect(once()).toEqual(once());
    const [empty] = replay(fitModel(NOTHING), [], [climbed('brisk')], { draws: 10, seed: 1 });
    expect(empty?.money).toEqual({ middle: 0, low: 0, high: 0 });
    expect(empty?.days).toEqual({ middle: 0, low: 0, high: 0 });
  });
});

describe('the check', () => {
  test('foretells what the model has not seen: shares lie within their intervals, and better than the share of the past', () => {
    const checked = checkModel(past(4000, 51), EVERY_DAY);
    for (const of of [checked?.retries, checked?.declines]) {
      expect(of?.brier).toBeLessThan(of?.brierOfShare ?? 0);
      const bins = of?.bins ?? [];
      expect(bins.length).toBe(8);
      const near = bins.filter(
        ({ predicted, low, high }) => predicted > low - 0.05 && predicted < high + 0.05,
      );
      expect(near.length).toBeGreaterThanOrEqual(7);
      expect(bins.reduce((sum, { count }) => sum + count, 0)).toBe(of?.count);
    }
  });

  test('says nothing where little is held out', () => {
    expect(checkModel(NOTHING, EVERY_DAY)).toBeNull();
    expect(checkModel(past(40, 61), EVERY_DAY)).toMatchObject({ retries: null, declines: null });
  });
});

describe('the suggested ladder', () => {
  const lived = past(800, 71);
  const model = fitModel(lived);
  const usual = { manner: startingPolicy('steady').manner, calendar: EVERY_DAY };
  const suggest = (letterWorth: number, retryWorth: number, endsOn = 14) =>
    suggestLadder(model, lived.declines, { endsOn, letterWorth, retryWorth, finalAction: 'lapse' }, usual);

  test('may be saved, writes with days between, and brings at least what the ladders to start from bring', () => {
    const { policy, worth, rungs } = suggest(0, 0);
    expect(checkLadder(policy)).toEqual([]);
    const letters = policy.rungs.filter(({ letter }) => letter).map(({ afterDays }) => afterDays);
    expect([letters[0], letters.at(-1)]).toEqual([0, 14 - LETTERS_APART]);
    letters
      .slice(1)
      .forEach((day, i) => expect(day - (letters[i] ?? 0)).toBeGreaterThanOrEqual(LETTERS_APART));
    const chances = chancesIn(model);
    for (const key of keys.filter((one) => one === 'brisk' || one === 'steady')) {
      const money = lived.declines.reduce(
        (sum, { declineClass, failedOn, amount }) =>
          sum + amount * expectedOf(courseFrom(climbed(key), declineClass, failedOn), chances).paid,
        0,
      );
      expect(worth.money).toBeGreaterThanOrEqual(money * 0.999);
    }
    // Nothing that costs nothing is left out for nothing: each retry and letter of it brings something.
    for (const { retryBrings, letterBrings } of rungs) {
      expect(retryBrings ?? 1).toBeGreaterThan(0);
      expect(letterBrings ?? 1).toBeGreaterThan(0);
    }
  });

  test('its worth is what its courses are expected to bring, each on its own day', () => {
    const { policy, worth } = suggest(50, 10);
    const chances = chancesIn(model);
    const sum = { money: 0, recovered: 0, retries: 0, letters: 0 };
    for (const { declineClass, failedOn, amount } of lived.declines) {
      const of = expectedOf(
        courseFrom({ ladder: policy, calendar: EVERY_DAY }, declineClass, failedOn),
        chances,
      );
      sum.money += of.paid * amount;
      sum.recovered += of.paid;
      sum.retries += of.retries;
      sum.letters += of.letters;
    }
    for (const name of ['money', 'recovered', 'retries', 'letters'] as const)
      expect(worth[name] / sum[name]).toBeCloseTo(1, 9);
  });

  test('dearer letters are fewer, and dearer retries', () => {
    const count = ({ policy }: ReturnType<typeof suggest>, what: 'letter' | 'retry') =>
      policy.rungs.filter((rung) => rung[what]).length;
    const free = suggest(0, 0);
    expect(count(suggest(2000, 0), 'letter')).toBeLessThan(count(free, 'letter'));
    expect(count(suggest(0, 2000), 'retry')).toBeLessThan(count(free, 'retry'));
  });
});
