import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import type { Payment } from './payment.ts';
import { issueDay } from './issueDay.ts';

const money = (total: bigint) => ({ total }) as Payment['money'];
const STARTS = '2027-01-04';
const payment = (of: Partial<Payment>) => ({
  ...{ kind: 'period' as const, from: toDay('2027-03-01'), dueOn: toDay('2027-03-08'), money: money(100n) },
  ...of,
});
const on = (of: Partial<Payment>, issueBefore: number, trialEndsOn: string | null = null) =>
  formatDay(issueDay(payment(of), { issueBefore, startsOn: STARTS, trialEndsOn }));

test.each([
  ['on its day', {}, 0, null, '2027-03-01'],
  ['ten days before', {}, 10, null, '2027-02-19'],
  ['when it is due, where that is before it begins', { dueOn: toDay('2027-02-26') }, 0, null, '2027-02-26'],
  ['ten days before that', { dueOn: toDay('2027-02-26') }, 10, null, '2027-02-16'],
  ['never before it starts', {}, 90, null, STARTS],
  ['never before its trial ends', {}, 30, '2027-02-15', '2027-02-15'],
  ['a change on its day', { kind: 'change' as const }, 10, null, '2027-03-01'],
  ['an amount once on its day', { kind: 'once' as const }, 10, null, '2027-03-01'],
  ['a part of a period on its day', { kind: 'stub' as const }, 10, null, '2027-03-01'],
  ['what gives money back on its day', { money: money(-1n) }, 10, null, '2027-03-01'],
])('a payment is invoiced %s', (_, of, days, trialEnds, expected) => {
  expect(on(of, days, trialEnds)).toBe(expected);
});

test('more days are never later, and none is ever later than without them', () => {
  const start = toDay(STARTS);
  fc.assert(
    fc.property(
      fc.nat(400),
      fc.integer({ min: -10, max: 30 }),
      fc.nat(90),
      fc.nat(90),
      fc.option(fc.nat(60)),
      (from, term, a, b, trial) => {
        const of = { from: start + from, dueOn: start + from + term };
        const trialEnds = trial === null ? null : formatDay(start + trial);
        const [few, many] = [Math.min(a, b), Math.max(a, b)];
        const usual = on(of, 0, trialEnds);
        expect(on(of, many, trialEnds) <= on(of, few, trialEnds)).toBe(true);
        expect(on(of, few, trialEnds) <= usual).toBe(true);
        // Whatever is asked, it is not before the start, unless it would have been without it.
        expect(on(of, many, trialEnds) >= (usual < STARTS ? usual : STARTS)).toBe(true);
      },
    ),
  );
});
