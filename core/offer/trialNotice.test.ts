import fc from 'fast-check';
import { expect, test } from 'vitest';
import { shortestTrialDays, trialNoticeDays } from './trialNotice.ts';

const days = fc.integer({ min: 1, max: 400 });
const maybe = fc.option(fc.integer({ min: 1, max: 90 }), { nil: null });

test('a trial is told of before it ends, not later than its country asks, and not on its first day unless it must be', () => {
  fc.assert(
    fc.property(days, maybe, maybe, (trialDays, asked, required) => {
      const notice = trialNoticeDays({ trialDays, asked, required });
      expect(notice).toBeGreaterThanOrEqual(1);
      expect(notice).toBeLessThanOrEqual(trialDays);
      expect(notice).toBeGreaterThanOrEqual(Math.min(required ?? 0, trialDays));
      if (asked === null && required === null && trialDays > 1) expect(notice).toBeLessThan(trialDays);
      if (asked !== null && asked <= trialDays) expect(notice).toBeGreaterThanOrEqual(asked);
    }),
  );
  expect(
    [5, 7, 8, 30].map((trialDays) => trialNoticeDays({ trialDays, asked: null, required: null })),
  ).toEqual([2, 3, 7, 7]);
});

test('the length of a trial is counted by the shortest month', () => {
  expect(['P7D', 'P2W', 'P1M', 'P3M', 'P1Y', 'nonsense'].map(shortestTrialDays)).toEqual([
    7,
    14,
    28,
    89,
    365,
    null,
  ]);
});
