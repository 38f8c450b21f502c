import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import { requireTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import { alterTerms, boundariesAhead } from './alterTerms.ts';
import { periodsRested } from './periodsRested.ts';

const monthly = requireTerms({
  ...{ currency: 'GBP', starts: '2027-01-04', interval: 'P1M' },
  lines: [{ price: { scheme: 'flat', amount: '10.00' } }],
});

test('however periods are skipped and paused, each that is left out counts once', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 4 }), { maxLength: 8 }), (rests) => {
      let terms = monthly;
      for (const periods of rests) {
        const running = { terms, compiled: compileTerms(terms), walk: null };
        const altered = alterTerms(running, { kind: 'pause', periods }, '2027-01-01');
        if (!('terms' in altered) || !('lines' in altered.terms)) throw new Error('it cannot rest');
        terms = altered.terms;
      }
      const all = rests.reduce((sum, periods) => sum + periods, 0);
      expect(periodsRested(terms as never, toDay('2027-01-01'), toDay('2037-01-01'))).toBe(all);
      // The next period that is charged lies behind as many months as were left out.
      const [next] = boundariesAhead({ terms, compiled: compileTerms(terms), walk: null }, 1);
      const months =
        (Number(formatDay(next ?? 0).slice(0, 4)) - 2027) * 12 + Number(formatDay(next ?? 0).slice(5, 7)) - 1;
      expect(months).toBe(all);
    }),
  );
});

test('what lies before the year is not counted', () => {
  const paused = { ...monthly, pauses: [{ from: '2027-02-01', to: '2027-05-01' }] };
  const count = (from: string, to: string) => periodsRested(paused as never, toDay(from), toDay(to));
  expect(count('2027-01-01', '2028-01-01')).toBe(3);
  expect(count('2027-03-05', '2028-03-05')).toBe(1);
  expect(count('2027-04-05', '2028-04-05')).toBe(0);
});
