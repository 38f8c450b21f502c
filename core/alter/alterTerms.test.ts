import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import type { WalkPosition } from '../listing/walkPosition.ts';
import type { Payment } from '../listing/payment.ts';
import { requireTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';
import { alterTerms, boundariesAhead, type Alteration } from './alterTerms.ts';
import { linesLeftOn } from './linesOn.ts';
import { sharesOf } from './sharesOf.ts';

const said = ({ kind, from, money }: Payment) => `${kind} ${formatDay(from)} ${money.total}`;

/** Charges terms up to a day as the run does: what was given, and the place reached with the last of it. */
function chargeTo(
  terms: Terms,
  walk: WalkPosition | null,
  day: number,
): { given: string[]; walk: WalkPosition } {
  const walking = new PaymentWalk(compileTerms(terms), walk ?? undefined);
  let reached = walking.position();
  const given: string[] = [];
  for (let next = walking.next(); next !== null && next.from <= day; next = walking.next()) {
    given.push(said(next));
    reached = walking.position();
  }
  return { given, walk: reached };
}

const termsOf = fc
  .record({
    start: fc.integer({ min: toDay('2027-01-01'), max: toDay('2027-12-31') }),
    interval: fc.constantFrom('P1M', 'P2W', 'P3M', 'P10D', 'P1Y'),
    on: fc.constantFrom(undefined, { day: 31 }, { day: 5 }),
    trial: fc.constantFrom(undefined, { length: 'P14D' }, { length: 'P1M', amount: '3.00' }),
    intro: fc.constantFrom(undefined, { payments: 2, amount: '1.00' }),
    stub: fc.constantFrom('prorate' as const, 'full' as const, 'free' as const),
    after: fc.constantFrom(undefined, 6),
    discounts: fc.constantFrom(undefined, [{ percent: '10', payments: 3 }]),
  })
  .map(({ start, interval, on, trial, intro, stub, after, discounts }) =>
    requireTerms({
      currency: 'GBP',
      starts: formatDay(start),
      interval,
      lines: [
        {
          name: 'Hive',
          quantity: 2,
          price: { scheme: 'each', amount: '7.30' },
          ...(intro ? { intro } : {}),
          ...(discounts ? { discounts } : {}),
        },
      ],
      ...(on && interval.endsWith('M') ? { on, stub } : {}),
      ...(trial ? { trial } : {}),
      ...(after ? { ends: { after } } : {}),
    }),
  );

const line = (amount: string) => ({ name: 'Hive', quantity: 2, price: { scheme: 'flat' as const, amount } });
const alteration: fc.Arbitrary<Alteration> = fc.oneof(
  fc.record({
    kind: fc.constant('quantity' as const),
    line: fc.constant(0),
    quantity: fc.integer({ min: 1, max: 9 }),
    from: fc.constantFrom('now' as const, 'renewal' as const),
  }),
  fc.record({
    kind: fc.constant('lines' as const),
    lines: fc.constantFrom([line('5.00')], [line('9.99'), line('1.01')]),
    from: fc.constantFrom('now' as const, 'renewal' as const),
  }),
  fc.record({ kind: fc.constant('pause' as const), periods: fc.integer({ min: 1, max: 3 }) }),
  fc.record({ kind: fc.constant('end' as const), afterPayments: fc.constantFrom(undefined, 4, 9) }),
  fc.constant({ kind: 'go on' as const }),
  fc.record({
    kind: fc.constant('pause until' as const),
    to: fc.integer({ min: toDay('2027-02-01'), max: toDay('2028-12-31') }).map(formatDay),
    rest: fc.constantFrom('free' as const, 'prorate' as const),
  }),
  fc.record({
    kind: fc.constant('date' as const),
    to: fc.integer({ min: toDay('2027-02-01'), max: toDay('2028-12-31') }).map(formatDay),
    days: fc.constantFrom('free' as const, 'prorate' as const),
    from: fc.constant('now' as const),
  }),
  fc.constant({ kind: 'discount' as const, discount: { percent: '25', payments: 2 } }),
  fc.record({
    ...{
      kind: fc.constant('once' as const),
      name: fc.constant('Veil'),
      amount: fc.constantFrom('24.00', '0.01'),
    },
    from: fc.constantFrom('now' as const, 'renewal' as const),
  }),
);

test('whatever is altered and whenever, what was charged stays, and the place goes on as if from the beginning', () => {
  let altered = 0;
  fc.assert(
    fc.property(
      termsOf,
      fc.array(fc.record({ alteration, wait: fc.integer({ min: 0, max: 45 }), charged: fc.boolean() }), {
        minLength: 1,
        maxLength: 5,
      }),
      (begun, steps) => {
        let terms: Terms = begun;
        let walk: WalkPosition | null = null;
        let today = toDay(begun.starts);
        const given: string[] = [];
        const charge = (day: number) => {
          const done = chargeTo(terms, walk, day);
          given.push(...done.given);
          walk = done.walk;
        };
        for (const { alteration: asked, wait, charged } of steps) {
          today += wait;
          // The day may have been charged before it is altered, as it is by the clock, or not, as in practice.
          charge(charged ? today : today - 1);
          const running = { terms, compiled: compileTerms(terms), walk };
          const result = alterTerms(running, asked, formatDay(today));
          if ('terms' in result) {
            terms = result.terms;
            altered += 1;
          }
        }
        charge(today + 400);
        const anew = chargeTo(terms, null, today + 400).given;
        expect(given).toEqual(anew);
      },
    ),
    { numRuns: 2500 },
  );
  expect(altered).toBeGreaterThan(1000);
});

test('an end never lies later than the one agreed to, and a fixed term is not made longer', () => {
  const terms = requireTerms({
    currency: 'GBP',
    starts: '2027-01-04',
    interval: 'P1M',
    ends: { after: 3 },
    lines: [line('10.00')],
  });
  const running = { terms, compiled: compileTerms(terms), walk: null };
  expect(alterTerms(running, { kind: 'end', afterPayments: 6 }, '2027-01-10')).toEqual({
    refused: 'It ends after 3 payments anyway.',
  });
  const shorter = alterTerms(running, { kind: 'end', afterPayments: 2 }, '2027-01-10');
  expect('terms' in shorter && chargeTo(shorter.terms, null, toDay('2028-01-01')).given.length).toBe(2);
});

test('lines that are brought in anew on any boundary come to what they would have come to, with all that is left of them', () => {
  let limited = 0;
  fc.assert(
    fc.property(
      termsOf,
      fc.integer({ min: 0, max: 4 }),
      fc.integer({ min: 0, max: 5 }),
      (terms, charged, ahead) => {
        if (!('lines' in terms)) return;
        const compiled = compileTerms(terms);
        const walking = new PaymentWalk(compiled);
        for (let n = 0; n < charged; n += 1) walking.next();
        const running = { terms, compiled, walk: charged === 0 ? null : walking.position() };
        const boundary = boundariesAhead(running, ahead + 1)[ahead];
        if (boundary === undefined) return;
        const date = formatDay(boundary);
        const lines = linesLeftOn(running, terms, date);
        if (lines[0]?.intro ?? lines[0]?.discounts) limited += 1;
        const anew = requireTerms({ ...terms, changes: [{ date, lines, settle: 'none' }] });
        const until = boundary + 800;
        expect(chargeTo(anew, null, until).given).toEqual(chargeTo(terms, null, until).given);
      },
    ),
    { numRuns: 1500 },
  );
  expect(limited).toBeGreaterThan(100);
});

test('an amount off a whole payment is shared over its lines to the last minor unit, in proportion to their prices', () => {
  const price = fc.integer({ min: 0, max: 100_000 }).map((minor) => (minor / 100).toFixed(2));
  fc.assert(
    fc.property(price, fc.array(price, { minLength: 1, maxLength: 8 }), (amount, prices) => {
      const lines = prices.map((one) => ({ name: 'x', price: { scheme: 'flat' as const, amount: one } }));
      const minor = (text: string) => BigInt(text.replace('.', ''));
      const shares = sharesOf(amount, lines, 'GBP').map(minor);
      expect(shares.reduce((sum, share) => sum + share, 0n)).toBe(minor(amount));
      const all = prices.map(minor).reduce((sum, one) => sum + one, 0n);
      if (all === 0n) return;
      // Each is within a minor unit of its exact part, which is held against without division.
      for (const [i, share] of shares.entries()) {
        const apart = share * all - minor(amount) * minor(prices[i] ?? '0');
        expect(apart < all && apart > -all).toBe(true);
      }
    }),
  );
  expect(
    sharesOf(
      '30.00',
      [{ price: { scheme: 'flat', amount: '10.00' } }, { price: { scheme: 'flat', amount: '50.00' } }],
      'GBP',
    ),
  ).toEqual(['5.00', '25.00']);
});
