import fc from 'fast-check';
import { expect, test } from 'vitest';
import { civilOf, dayOf, FIRST_DAY, formatDay, LAST_DAY, parseDay, toDay } from './day.ts';
import { addDuration, parseDuration } from './duration.ts';
import { toWorkingDay } from './workingDay.ts';
import { weekdayIndex } from './weekday.ts';

const anyDay = fc.integer({ min: FIRST_DAY, max: LAST_DAY });

test('days, dates and weekdays agree with the platform’s calendar, in all 9,999 years', () =>
  fc.assert(
    fc.property(anyDay, (day) => {
      const platform = new Date(day * 86_400_000);
      const { year, month, date } = civilOf(day);
      expect([year, month, date]).toEqual([
        platform.getUTCFullYear(),
        platform.getUTCMonth() + 1,
        platform.getUTCDate(),
      ]);
      expect(dayOf(year, month, date)).toBe(day);
      expect(parseDay(formatDay(day))).toBe(day);
      expect((weekdayIndex(day) + 1) % 7).toBe(platform.getUTCDay());
    }),
    { numRuns: 2000 },
  ));

test.each([
  '2027-02-29',
  '2027-13-01',
  '2027-00-10',
  '0000-01-01',
  '2027-1-1',
  '10000-01-01',
  ' 2027-01-01',
  '2027-04-31',
])('%s is no date', (text) => expect(parseDay(text)).toBeNull());

test.each([
  ['2027-01-31', 'P1M', 1, '2027-02-28'],
  ['2027-01-31', 'P1M', 2, '2027-03-31'],
  ['2028-02-29', 'P1Y', 1, '2029-02-28'],
  ['2027-12-25', 'P2W', 3, '2028-02-05'],
  ['2027-03-31', 'P1M', -1, '2027-02-28'],
] as const)('%s and %s, %i times, is %s', (start, text, times, expected) => {
  const duration = parseDuration(text);
  expect(duration && formatDay(addDuration(toDay(start), duration, times))).toBe(expected);
});

test('a due date moves to the nearest worked day in its direction, over weekends and holidays', () => {
  const calendar = { weekend: new Set([5, 6]), holidays: new Set(['2027-12-27', '2027-12-28'].map(toDay)) };
  const moved = (day: string, shift: 'next' | 'previous') =>
    formatDay(toWorkingDay(toDay(day), { ...calendar, shift }));
  expect(moved('2027-12-25', 'next')).toBe('2027-12-29');
  expect(moved('2027-12-28', 'previous')).toBe('2027-12-24');
  expect(moved('2027-12-23', 'next')).toBe('2027-12-23');
});
