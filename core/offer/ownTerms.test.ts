import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { firstDues } from '../listing/firstDues.ts';
import { checkTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import { faultsOfOwn, type OwnTerms } from './ownTerms.ts';

const rate: RateTerms = {
  ...{ currency: 'GBP', interval: 'P1M', setup: { amount: '45.00', when: 'start' } },
  lines: [{ name: 'Hive', price: { scheme: 'flat', amount: '31.00' } }],
  tax: { rate: '20', mode: 'exclusive' },
};
const termsWith = (own: OwnTerms, starts = '2027-03-10'): Terms => {
  const checked = checkTerms(composeTerms(rate, { starts, own }));
  if (!checked.ok) throw new Error(JSON.stringify(checked.faults));
  return checked.terms;
};
const dues = (own: OwnTerms, most = 3) =>
  firstDues(compileTerms(termsWith(own)), most).map(({ dueOn, due }) => `${dueOn} ${due}`);

describe('what is agreed with one customer alone, worked by hand', () => {
  test.each<{ what: string; own: OwnTerms; comes: string[] }>([
    {
      what: 'nothing: as the rate says',
      own: {},
      comes: ['2027-03-10 9120', '2027-04-10 3720', '2027-05-10 3720'],
    },
    // 22 of the 31 days until 1 April, or 21 until the last of March, each 1.00, and the set-up; each with a fifth of tax.
    {
      what: 'a billing day',
      own: { billingDay: 1 },
      comes: ['2027-03-10 8040', '2027-04-01 3720', '2027-05-01 3720'],
    },
    {
      what: 'the last day',
      own: { billingDay: 'last' },
      comes: ['2027-03-10 7920', '2027-03-31 3720', '2027-04-30 3720'],
    },
    {
      what: 'no set-up',
      own: { setUp: '0.00' },
      comes: ['2027-03-10 3720', '2027-04-10 3720', '2027-05-10 3720'],
    },
    {
      what: 'another set-up',
      own: { setUp: '10' },
      comes: ['2027-03-10 4920', '2027-04-10 3720', '2027-05-10 3720'],
    },
    {
      what: 'no tax',
      own: { untaxed: true },
      comes: ['2027-03-10 7600', '2027-04-10 3100', '2027-05-10 3100'],
    },
    {
      what: 'thirty days to pay',
      own: { termDays: 30 },
      comes: ['2027-04-09 9120', '2027-05-10 3720', '2027-06-09 3720'],
    },
    {
      what: 'a tenth off two payments',
      own: { setUp: '0', discount: { percent: '10', payments: 2 } },
      comes: ['2027-03-10 3348', '2027-04-10 3348', '2027-05-10 3720'],
    },
    {
      what: 'lines of its own, one of them once',
      own: {
        setUp: '0',
        lines: [
          { name: 'Visit', amount: '4.00', when: 'recurring' },
          { name: 'Fence', amount: '50.00', when: 'once' },
        ],
      },
      comes: ['2027-03-10 10200', '2027-04-10 4200', '2027-05-10 4200'],
    },
  ])('$what', ({ own, comes }) => {
    expect(dues(own)).toEqual(comes);
  });

  test('nothing given changes nothing, however it is given', () => {
    const plain = composeTerms(rate, { starts: '2027-03-10' });
    expect(composeTerms(rate, { starts: '2027-03-10', own: {} })).toEqual(plain);
    const empty: OwnTerms = {
      termDays: undefined,
      setUp: undefined,
      untaxed: undefined,
      discount: undefined,
    };
    expect(composeTerms(rate, { starts: '2027-03-10', own: empty })).toEqual(plain);
  });

  test('a sale once keeps to what a sale has', () => {
    const sale: RateTerms = { currency: 'GBP', once: [{ name: 'Kit', amount: '100.00' }] };
    const own: OwnTerms = { billingDay: 5, setUp: '9.00', termDays: 7, discount: { amount: '10.00' } };
    const checked = checkTerms(composeTerms(sale, { starts: '2027-03-10', own }));
    expect(checked).toMatchObject({ ok: true });
    if (checked.ok)
      expect(firstDues(compileTerms(checked.terms), 3)).toEqual([{ dueOn: '2027-03-17', due: '9000' }]);
  });
});

test('every fault of it comes back beside its own field, and no other does', () => {
  const faults = (own: OwnTerms, of: RateTerms = rate) => {
    const composed = composeTerms(of, { starts: '2027-03-10', own });
    const checked = checkTerms(composed);
    const counts = {
      lines: 'lines' in composed ? composed.lines.length : 0,
      discounts: composed.discounts?.length ?? 0,
    };
    return checked.ok ? [] : faultsOfOwn(checked.faults, own, counts).map(({ pointer }) => pointer);
  };
  expect(faults({ setUp: '1.234' })).toEqual(['/own/setUp']);
  expect(faults({ discount: { percent: '101' } })).toEqual(['/own/discount']);
  expect(faults({ lines: [{ name: 'x', amount: '1.234', when: 'recurring' }] })).toEqual(['/own/lines/0']);
  expect(faults({ billingDay: 3 }, { ...rate, interval: 'P1W' })).toEqual(['/own/billingDay']);
  expect(
    faults({ setUp: '5.00' }, { ...rate, lines: [{ price: { scheme: 'flat', amount: '1.234' } }] }),
  ).toEqual(['/lines/0/price/amount']);
});

test('whatever is agreed alone, the terms can be computed, and never cost less than nothing', () => {
  const own: fc.Arbitrary<OwnTerms> = fc.record(
    {
      termDays: fc.integer({ min: 0, max: 365 }),
      billingDay: fc.oneof(fc.integer({ min: 1, max: 31 }), fc.constant('last' as const)),
      setUp: fc
        .integer({ min: 0, max: 99_999 })
        .map((n) => `${Math.floor(n / 100)}.${String(n % 100).padStart(2, '0')}`),
      untaxed: fc.boolean(),
      discount: fc.record({ percent: fc.integer({ min: 0, max: 100 }).map(String) }),
      lines: fc.array(
        fc.record({
          name: fc.constant('Line'),
          amount: fc.integer({ min: 0, max: 9_999 }).map((n) => `${n}.50`),
          when: fc.constantFrom('recurring' as const, 'once' as const),
        }),
        { maxLength: 3 },
      ),
    },
    { requiredKeys: [] },
  );
  fc.assert(
    fc.property(own, fc.integer({ min: 1, max: 28 }), (given, day) => {
      const terms = termsWith(given, `2027-02-${String(day).padStart(2, '0')}`);
      const found = firstDues(compileTerms(terms), 6);
      for (const { due } of found) expect(BigInt(due)).toBeGreaterThan(0n);
      const days = found.map(({ dueOn }) => dueOn);
      expect(days).toEqual([...days].sort());
    }),
    { numRuns: 300 },
  );
});
