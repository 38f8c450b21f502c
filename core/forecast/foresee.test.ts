import fc from 'fast-check';
import { expect, test } from 'vitest';
import { anyTerms } from '../../testing/anyTerms.ts';
import { formatDay, toDay, type Day } from '../dates/day.ts';
import { listPayments } from '../listing/listPayments.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { parseDecimal } from '../money/decimal.ts';
import { compileTerms } from '../terms/compile.ts';
import { requireTerms } from '../terms/check.ts';
import { DAYS_AHEAD } from './daysAhead.ts';
import { foresee, type Foreseen } from './foresee.ts';

const SEED = 20_270_104;

/** What is foreseen up to a day, as text by day. */
const upTo = ({ charges }: Foreseen, last: Day) =>
  charges
    .filter(({ on }) => on <= last)
    .map(({ on, payments, amount }) => `${formatDay(on)} ${payments} ${amount}`)
    .sort();

test('what is foreseen of any terms is what they list, by day, as far as it says that it reaches', () =>
  fc.assert(
    fc.property(anyTerms, fc.integer({ min: 0, max: 900 }), (terms, days) => {
      const today = toDay(terms.starts) + days;
      const walk = new PaymentWalk(compileTerms(terms));
      let place = walk.position();
      for (let payment = walk.next(); payment !== null && payment.from <= today; payment = walk.next())
        place = walk.position();
      const foreseen = foresee(compileTerms(terms), place, today);
      // Listed from the very first payment, as a document for people: another writer, and no place to begin from.
      const { payments } = listPayments(terms, { until: formatDay(today + DAYS_AHEAD + 40) });
      const listed = payments.filter(({ from, due }) => toDay(from) > today && due !== '0.00');
      const byDay = new Map<string, { n: number; sum: bigint }>();
      for (const { dueOn, due } of listed) {
        const before = byDay.get(dueOn) ?? { n: 0, sum: 0n };
        byDay.set(dueOn, { n: before.n + 1, sum: before.sum + parseDecimal(due, 2) });
      }
      const last = today + DAYS_AHEAD;
      const expected = [...byDay].filter(([date]) => toDay(date) <= last);
      expect(upTo(foreseen, last)).toEqual(
        expected.map(([date, { n, sum }]) => `${date} ${n} ${sum}`).sort(),
      );
      const next = payments.find(({ from }) => toDay(from) > today);
      if (next) expect(foreseen.next && formatDay(foreseen.next.dueOn)).toBe(next.dueOn);
    }),
    { numRuns: 300, seed: SEED },
  ));

test('it holds until the day on which it says that it is to be made anew', () =>
  fc.assert(
    fc.property(
      anyTerms,
      fc.integer({ min: 0, max: 900 }),
      fc.integer({ min: 1, max: 120 }),
      (terms, days, later) => {
        const compiled = compileTerms(terms);
        const today = toDay(terms.starts) + days;
        const walk = new PaymentWalk(compiled);
        let place = walk.position();
        for (let payment = walk.next(); payment !== null && payment.from <= today; payment = walk.next())
          place = walk.position();
        const first = foresee(compiled, place, today);
        const day = Math.min(today + later, (first.again ?? Infinity) - 1);
        const then = foresee(compiled, place, day);
        expect(then.monthly).toBe(first.monthly);
        expect(then.next).toEqual(first.next);
        expect(upTo(first, day + DAYS_AHEAD)).toEqual(upTo(then, day + DAYS_AHEAD));
      },
    ),
    { numRuns: 300, seed: SEED },
  ));

test.each([
  ['P1D', 76],
  ['P1M', 3],
  ['P1Y', 0],
])('%s: the days ahead are known, with some to spare', (interval, atLeast) => {
  const terms = compileTerms(
    requireTerms({
      ...{ currency: 'GBP', starts: '2027-01-01', interval },
      lines: [{ name: 'Hive', price: { scheme: 'flat', amount: '5.00' } }],
    }),
  );
  const walk = new PaymentWalk(terms);
  walk.next();
  const today = toDay('2027-01-01');
  const { charges, again, monthly } = foresee(terms, walk.position(), today);
  expect(charges.length).toBeGreaterThanOrEqual(atLeast);
  expect(again).toBeGreaterThan(today + 13);
  expect(monthly).toBeGreaterThan(0n);
});
