import fc from 'fast-check';
import { formatDay, toDay } from '../core/dates/day.ts';
import { checkTerms } from '../core/terms/check.ts';
import type { Terms } from '../core/terms/schema.ts';

const first = toDay('2026-01-01');
const date = fc.integer({ min: 0, max: 1500 }).map((days) => formatDay(first + days));
const cents = (most: number) => fc.integer({ min: 0, max: most }).map((n) => (n / 100).toFixed(2));
const tax = fc.record({
  rate: fc.constantFrom('0', '5', '8.875', '20'),
  mode: fc.constantFrom('exclusive', 'inclusive'),
});
const price = fc.oneof(
  fc.record({ scheme: fc.constant('flat'), amount: cents(20_000) }),
  fc.record({ scheme: fc.constant('each'), amount: fc.constantFrom('0.015', '4.50', '0.333333333333') }),
  fc.constant({
    scheme: 'each-tier',
    tiers: [
      { to: 3, each: '2.50' },
      { to: 10, each: '1.005', amount: '3.00' },
      { to: null, each: '0.1' },
    ],
  }),
);
const discount = (to: object) =>
  fc.oneof(
    fc.record({ percent: fc.constantFrom('10', '33.3333', '100'), ...to }),
    fc.record({ amount: cents(3_000), ...to }),
    fc.record({ percent: fc.constant('50'), payments: fc.integer({ min: 1, max: 3 }), ...to }),
  );
const some = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined });
const line = fc.record({
  quantity: fc.integer({ min: 1, max: 40 }),
  price,
  intro: some(fc.record({ payments: fc.integer({ min: 1, max: 3 }), amount: cents(2_000) })),
  discounts: some(fc.array(discount({}), { maxLength: 2 })),
  tax: some(tax),
});
const schedule = fc.oneof(
  fc.record({ interval: fc.constantFrom('P1D', 'P10D', 'P2W', 'P1M', 'P3M', 'P1Y') }),
  fc.record({
    interval: fc.constantFrom('P1M', 'P2M'),
    on: fc.record({ day: fc.constantFrom(1, 15, 31, 'last') }),
  }),
  fc.record({ interval: fc.constant('P1M'), on: fc.constant({ days: [6, 21] }) }),
  fc.record({ interval: fc.constant('P1W'), on: fc.record({ weekday: fc.constantFrom('mon', 'sat') }) }),
  fc.record({ interval: fc.constant('P1M'), on: fc.constant({ nth: 'last', weekday: 'fri' }) }),
  fc.record({ interval: fc.constant('P1Y'), on: fc.constant({ month: 2, day: 29 }) }),
);
const ends = fc.oneof(fc.record({ after: fc.integer({ min: 1, max: 20 }) }), fc.record({ until: date }));
const change = fc.record({
  date,
  lines: some(fc.array(line, { minLength: 1, maxLength: 2 })),
  schedule: some(schedule),
  ends: some(fc.option(ends)),
  moved: some(
    fc.record({ days: fc.integer({ min: 1, max: 70 }), nextStub: some(fc.constantFrom('free', 'prorate')) }),
  ),
  settle: some(fc.constantFrom('now', 'next', 'none')),
});

const pauseOf = (from: string, days: number, after: string) => ({
  from,
  to: formatDay(toDay(from) + days),
  ...(after === 'prorate' ? { rest: after } : { resume: after }),
});
const changeOf = ({ moved, ...rest }: typeof change extends fc.Arbitrary<infer One> ? One : never) =>
  moved === undefined || rest.schedule !== undefined
    ? rest
    : { ...rest, next: formatDay(toDay(rest.date) + moved.days), nextStub: moved.nextStub };

/** Terms over nearly everything in the rules; those that come out faulty are thrown away. */
export const anyTerms: fc.Arbitrary<Terms> = fc
  .record({
    starts: date,
    lines: fc.array(line, { minLength: 1, maxLength: 3 }),
    schedule,
    trial: some(fc.record({ length: fc.constantFrom('P14D', 'P1M'), amount: cents(500) })),
    setup: some(fc.record({ amount: cents(5_000), when: fc.constantFrom('start', 'after-trial') })),
    once: some(fc.array(fc.record({ amount: cents(9_000), date, tax: some(tax) }), { maxLength: 3 })),
    stub: some(fc.constantFrom('prorate', 'full', 'free')),
    ends: some(ends),
    endStub: some(fc.constantFrom('whole', 'prorate')),
    discounts: some(
      fc.array(discount({ to: some(fc.constantFrom('recurring', 'once', 'all')) }), { maxLength: 2 }),
    ),
    tax: some(tax),
    pauses: some(
      fc.tuple(date, fc.integer({ min: 1, max: 200 }), fc.constantFrom('keep', 'restart', 'prorate')),
    ),
    changes: fc.array(change, { maxLength: 3 }),
  })
  .map(({ schedule: timing, pauses, changes, ...rest }) => ({
    currency: 'GBP',
    ...rest,
    ...timing,
    pauses: pauses && [pauseOf(...pauses)],
    changes: [...changes].sort((a, b) => (a.date < b.date ? -1 : 1)).map(changeOf),
  }))
  .map((document) => checkTerms(JSON.parse(JSON.stringify(document))))
  .filter((checked) => checked.ok)
  .map((checked) => checked.terms);
