import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { civilOf, dayOf, formatDay, toDay, type Day } from '../dates/day.ts';
import { parseDuration, type Duration } from '../dates/duration.ts';
import { daysInMonth, monthOf } from '../dates/month.ts';
import { weekdayIndex } from '../dates/weekday.ts';
import { boundariesFrom } from './boundaries.ts';
import type { Anchor } from '../agreed/anchor.ts';
import { nextBoundary } from './nextBoundary.ts';

const from = (text: string, interval: string, on: Anchor | null = null) =>
  boundariesFrom(toDay(text), parseDuration(interval) as Duration, on);
const list = (boundaries: (k: number) => Day, count: number) =>
  Array.from({ length: count }, (_, k) => formatDay(boundaries(k)));

test.each<[string, string, string, Anchor | null, string[]]>([
  [
    'day 31 clamps and comes back',
    '2027-01-31',
    'P1M',
    null,
    ['2027-01-31', '2027-02-28', '2027-03-31', '2027-04-30'],
  ],
  [
    '29 February, yearly',
    '2028-02-29',
    'P1Y',
    null,
    ['2028-02-29', '2029-02-28', '2030-02-28', '2031-02-28', '2032-02-29'],
  ],
  [
    'a quarter on day 1 from 15 January',
    '2027-01-15',
    'P3M',
    { kind: 'day', day: 1 },
    ['2027-02-01', '2027-05-01'],
  ],
  [
    'the 6th and the 21st',
    '2027-03-09',
    'P1M',
    { kind: 'two-days', days: [6, 21] },
    ['2027-03-21', '2027-04-06', '2027-04-21'],
  ],
  [
    'the 15th and the 31st',
    '2027-02-16',
    'P1M',
    { kind: 'two-days', days: [15, 31] },
    ['2027-02-28', '2027-03-15', '2027-03-31'],
  ],
  [
    'every two weeks on Tuesdays',
    '2028-12-19',
    'P2W',
    { kind: 'weekday', weekday: 1 },
    ['2028-12-19', '2029-01-02'],
  ],
  [
    'the last Monday',
    '2027-05-31',
    'P1M',
    { kind: 'nth', nth: 'last', weekday: 0 },
    ['2027-05-31', '2027-06-28', '2027-07-26'],
  ],
  [
    '29 February clamped anew each year',
    '2027-03-01',
    'P1Y',
    { kind: 'month-day', month: 2, day: 29 },
    ['2028-02-29', '2029-02-28'],
  ],
  [
    'across the leap day of 2000 and the missing one of 2100',
    '2000-02-29',
    'P100Y',
    null,
    ['2000-02-29', '2100-02-28'],
  ],
])('%s', (_, start, interval, on, expected) =>
  expect(list(from(start, interval, on), expected.length)).toEqual(expected),
);

/** Whether an anchor allows a day: the rule itself, to be compared with what is counted. */
function allows(on: Anchor, day: Day): boolean {
  const { date, month } = civilOf(day);
  const last = daysInMonth(monthOf(day));
  switch (on.kind) {
    case 'day':
      return date === Math.min(on.day, last);
    case 'month-day':
      return month === on.month && date === Math.min(on.day, last);
    case 'two-days':
      return on.days.some((wanted) => date === Math.min(wanted, last));
    case 'weekday':
      return weekdayIndex(day) === on.weekday;
    case 'nth': {
      if (weekdayIndex(day) !== on.weekday) return false;
      return on.nth === 'last' ? date + 7 > last : Math.ceil(date / 7) === on.nth;
    }
  }
}

const weekday = fc.integer({ min: 0, max: 6 });
const anchors: fc.Arbitrary<[Anchor, string]> = fc.oneof(
  fc.integer({ min: 1, max: 31 }).map((day): [Anchor, string] => [{ kind: 'day', day }, 'P1M']),
  fc
    .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 31 }))
    .map(([month, day]): [Anchor, string] => [{ kind: 'month-day', month, day }, 'P1Y']),
  fc
    .tuple(fc.integer({ min: 1, max: 27 }), fc.integer({ min: 1, max: 31 }))
    .filter(([a, b]) => a < b)
    .map((days): [Anchor, string] => [{ kind: 'two-days', days }, 'P1M']),
  weekday.map((day): [Anchor, string] => [{ kind: 'weekday', weekday: day }, 'P1W']),
  fc
    .tuple(fc.constantFrom<1 | 2 | 3 | 4 | 'last'>(1, 2, 3, 4, 'last'), weekday)
    .map(([nth, day]): [Anchor, string] => [{ kind: 'nth', nth, weekday: day }, 'P1M']),
);
const starts = fc.integer({ min: dayOf(1999, 1, 1), max: dayOf(2105, 1, 1) });

describe('for any anchor', () => {
  test('the boundaries of interval one are exactly the days that the rule allows, from the first on or after A', () =>
    fc.assert(
      fc.property(anchors, starts, ([on, interval], start) => {
        const boundaries = boundariesFrom(start, parseDuration(interval) as Duration, on);
        const expected: Day[] = [];
        for (let day = start; expected.length < 5 && day < start + 2000; day += 1)
          if (allows(on, day)) expected.push(day);
        expect([0, 1, 2, 3, 4].map(boundaries)).toEqual(expected);
        let before = start - 1;
        while (!allows(on, before)) before -= 1;
        expect(boundaries(-1)).toBe(before);
      }),
    ));

  test('the next boundary after a day is the first that lies after it', () =>
    fc.assert(
      fc.property(anchors, starts, fc.integer({ min: -10, max: 4000 }), ([on, interval], start, later) => {
        const boundaries = boundariesFrom(start, parseDuration(interval) as Duration, on);
        const next = nextBoundary(boundaries, start + later);
        let k = 0;
        while (boundaries(k) <= start + later) k += 1;
        expect(next).toBe(boundaries(k));
      }),
    ));
});
