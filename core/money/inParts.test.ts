import fc from 'fast-check';
import { expect, test } from 'vitest';
import { toDay } from '../dates/day.ts';
import { inParts } from './inParts.ts';

test('a third of a hundred, from the last day of a month', () => {
  expect(inParts(10_000n, 3, toDay('2027-01-31'), { count: 1, unit: 'M' })).toEqual([
    { dueOn: '2027-01-31', amount: 3334n },
    { dueOn: '2027-02-28', amount: 3333n },
    { dueOn: '2027-03-31', amount: 3333n },
  ]);
});

test('nothing is lost, no two parts differ by more than one, and each comes after the one before', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 24 }),
      fc.bigInt({ min: 24n, max: 10n ** 12n }),
      fc.constantFrom(
        { count: 1, unit: 'W' } as const,
        { count: 2, unit: 'W' } as const,
        {
          count: 1,
          unit: 'M',
        } as const,
      ),
      fc.integer({ min: 0, max: 800 }),
      (parts, sum, every, later) => {
        const dated = inParts(sum, parts, toDay('2027-01-01') + later, every);
        const amounts = dated.map(({ amount }) => amount);
        expect(amounts.reduce((total, one) => total + one, 0n)).toBe(sum);
        expect((amounts[0] ?? 0n) - (amounts.at(-1) ?? 0n) <= 1n).toBe(true);
        const days = dated.map(({ dueOn }) => dueOn);
        expect(new Set(days).size).toBe(parts);
        expect(days).toEqual(days.toSorted());
      },
    ),
  );
});
