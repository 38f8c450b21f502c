import fc from 'fast-check';
import { expect, test } from 'vitest';
import { byDays, monthsUntil, sumOf, sumsBy, type CaseFacts } from './figures.ts';

const anyFacts: fc.Arbitrary<CaseFacts> = fc
  .record({
    month: fc.constantFrom('2026-11', '2026-12', '2027-01'),
    reason: fc.constantFrom('no money', 'lost'),
    ladder: fc.constantFrom('Steady', 'Quiet'),
    rungs: fc.integer({ min: 0, max: 5 }),
    how: fc.constantFrom(null, 'by a retry', 'climbed to its end', 'by a credit note'),
    days: fc.integer({ min: 0, max: 60 }),
    cases: fc.integer({ min: 1, max: 20 }),
    failed: fc.integer({ min: 0, max: 100_000 }),
    share: fc.double({ min: 0, max: 1, noNaN: true }),
  })
  .map(({ share, how, days, failed, ...rest }) => ({
    ...{ ...rest, how, failed, days: how === null ? null : days },
    isRecovered: how === 'by a retry',
    recovered: how === 'by a retry' ? failed : Math.floor(failed * share),
  }));

test('what failed has come in, may still come in, or is lost: in every group and in all', () => {
  fc.assert(
    fc.property(fc.array(anyFacts, { maxLength: 30 }), (facts) => {
      const whole = sumOf(facts);
      for (const [, sum] of [['all', whole] as const, ...sumsBy(facts, ({ reason }) => reason)]) {
        expect(sum.recovered + sum.atRisk + sum.lost).toBe(sum.failed);
        expect(sum.casesOpen + sum.casesRecovered + sum.casesGivenUp).toBe(sum.cases);
        if (sum.rate !== null) expect(sum.rate).toBeLessThanOrEqual(1);
      }
      const groups = sumsBy(facts, ({ month }) => month);
      expect(new Set(groups.map(([month]) => month)).size).toBe(groups.length);
      expect(groups.reduce((sum, [, { failed }]) => sum + failed, 0)).toBe(whole.failed);
      expect(byDays(facts).reduce((sum, { cases }) => sum + cases, 0)).toBe(whole.casesRecovered);
    }),
  );
});

test('the rate is of cases that are over, the days of those that were recovered, by how many they are', () => {
  const one = { month: '2027-01', reason: 'no money', ladder: 'Steady', rungs: 1 };
  const paid = {
    ...one,
    how: 'by a retry',
    isRecovered: true,
    cases: 3,
    failed: 3000,
    recovered: 3000,
    days: 2,
  };
  const late = { ...paid, cases: 1, failed: 1000, recovered: 1000, days: 10 };
  const gone = {
    ...one,
    how: 'climbed to its end',
    isRecovered: false,
    cases: 1,
    failed: 1000,
    recovered: 0,
    days: 14,
  };
  const open = { ...one, how: null, isRecovered: false, cases: 2, failed: 2000, recovered: 500, days: null };
  expect(sumOf([paid, late, gone, open])).toEqual({
    ...{ cases: 7, failed: 7000, recovered: 4500, atRisk: 1500, lost: 1000 },
    ...{ casesOpen: 2, casesRecovered: 4, casesGivenUp: 1, rate: 0.8, days: 4 },
  });
  expect(sumOf([open])).toMatchObject({ rate: null, days: null });
  expect(byDays([paid, late, gone, open]).filter(({ cases }) => cases > 0)).toEqual([
    { part: '2–4', cases: 3, recovered: 3000 },
    { part: '10–14', cases: 1, recovered: 1000 },
  ]);
});

test('months run over the end of a year', () => {
  expect(monthsUntil('2027-02', 4)).toEqual(['2026-11', '2026-12', '2027-01', '2027-02']);
  expect(monthsUntil('2027-12', 1)).toEqual(['2027-12']);
});
