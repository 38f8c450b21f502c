import fc from 'fast-check';
import { expect, test } from 'vitest';
import { parseDecimal } from '../money/decimal.ts';
import { paymentsOf } from '../listing/listPayments.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms, TermsPrice } from '../terms/schema.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { checkTerms } from '../terms/check.ts';
import { explainFirst } from './explainFirst.ts';
import { explainPrice } from './explainPrice.ts';
import { trapsOf } from './traps.ts';

const unit = fc.integer({ min: 0, max: 99_999 }).map((n) => (n / 100).toFixed(2));
const tiers = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 40 }), unit, unit), { minLength: 1, maxLength: 8 })
  .map((rows) => {
    let to = 0;
    return rows.map(([step, each, amount], i) => {
      to += step;
      return { to: i === rows.length - 1 ? null : to, each, amount };
    });
  });
const price: fc.Arbitrary<TermsPrice> = fc.oneof(
  fc.record({ scheme: fc.constantFrom('each-tier' as const, 'reached-tier' as const), tiers }),
  tiers.map((rows) => ({ scheme: 'step' as const, tiers: rows.map(({ to, amount }) => ({ to, amount })) })),
  fc.record({ scheme: fc.constant('each' as const), amount: unit }),
  fc.record({ scheme: fc.constant('pack' as const), amount: unit, size: fc.integer({ min: 1, max: 12 }) }),
);

test('the steps of an explanation always add up to what is charged', () => {
  fc.assert(
    fc.property(price, fc.integer({ min: 1, max: 400 }), (scheme, quantity) => {
      const { steps, charged } = explainPrice(scheme, quantity, 'GBP');
      const sum = steps.reduce((total, { comesTo }) => total + parseDecimal(comesTo, 12), 0n);
      expect(sum).toBe(charged * 10n ** 10n);
    }),
  );
});

test('an explanation reads as a bookkeeper would say it', () => {
  const eachTier: TermsPrice = {
    scheme: 'each-tier',
    tiers: [
      { to: 10, each: '3.00' },
      { to: null, each: '2.505', amount: '5.00' },
    ],
  };
  expect(explainPrice(eachTier, 11, 'GBP')).toEqual({
    steps: [
      { says: '10 at 3.00', comesTo: '30.00' },
      { says: '1 at 2.505', comesTo: '2.505' },
      { says: 'fixed for tier 2', comesTo: '5.00' },
    ],
    total: '£37.51',
    charged: 3751n,
  });
});

const traps = (more: object) => {
  const terms = {
    currency: 'GBP',
    starts: '2027-01-31',
    interval: 'P1M',
    lines: [{ price: { scheme: 'flat', amount: '12.40' } }],
    ...more,
  } as Terms;
  const payments = [...paymentsOf(compileTerms(terms), { count: 12 })];
  return trapsOf(terms, payments).map(({ says }) => says);
};

test.each([
  [{}, 'Day 31: in a shorter month this is on its last day, such as Sun 28 Feb 2027.'],
  [{ on: { day: 30 } }, 'Day 30: in a shorter month this is on its last day, such as Sun 28 Feb 2027.'],
  [{ interval: 'P2W' }, 'Every 2 weeks, not each week: Sun 31 Jan 2027, Sun 14 Feb 2027, Sun 28 Feb 2027.'],
  [
    { starts: '2027-01-20', ends: { until: '2027-05-20' } },
    'Ends 20 May 2027: £12.40 is still charged on Thu 20 May 2027, for service up to Sat 19 Jun 2027.',
  ],
  [
    { starts: '2027-01-20', on: { day: 3 }, stub: 'free' },
    'Nothing is charged before Wed 3 Feb 2027, though it starts on Wed 20 Jan 2027.',
  ],
])('a trap is named with its dates: %j', (more, says) => {
  expect(traps(more)).toContain(says);
});

test('where nothing is read otherwise, no trap is named', () => {
  expect(traps({ starts: '2027-01-15' })).toEqual([]);
  expect(traps({ starts: '2027-01-15', ends: { until: '2027-05-14' } })).toEqual([]);
});

test('a first payment that is no plain price is explained: its days, its set-up, what is paid once', () => {
  const first = (more: object) => {
    const checked = checkTerms({
      ...{ currency: 'GBP', starts: '2027-03-10', interval: 'P1M' },
      lines: [{ name: 'Hive', quantity: 2, price: { scheme: 'each', amount: '15.50' } }],
      ...more,
    });
    if (!checked.ok) throw new Error(JSON.stringify(checked.faults));
    const payment = new PaymentWalk(compileTerms(checked.terms)).next();
    return payment ? explainFirst(payment).map(({ says, amount }) => `${says} ${amount}`) : null;
  };
  expect(first({})).toEqual([]);
  const stub = { on: { day: 1 }, stub: 'prorate', setup: { amount: '45.00' } };
  const until = '2 × Hive: 22 days until the billing day, Thu 1 Apr 2027';
  expect(first(stub)).toEqual([`${until} 2200`, 'Set-up, once 4500']);
  expect(first({ ...stub, stub: 'free' })).toEqual(['2 × Hive 3100', 'Set-up, once 4500']);
  expect(first({ once: [{ name: 'Fence', amount: '9.00', date: '2027-03-10' }] })).toEqual([
    '2 × Hive 3100',
    'Fence, once 900',
  ]);
  expect(first({ trial: { length: 'P7D', amount: '1.00' } })).toEqual(['The trial, 7 days 100']);
});
