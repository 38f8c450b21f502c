import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { dayByDay } from '../../testing/dayByDay/dayByDay.ts';
import type { Document } from '../../testing/dayByDay/terms.ts';
import { formatDay, toDay } from '../dates/day.ts';
import { listPayments, paymentsOf, type Horizon } from '../listing/listPayments.ts';
import { nextPayment } from '../listing/nextPayment.ts';
import { OutputWriter, type Output } from '../listing/output.ts';
import { checkTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';

const START = toDay('2027-01-01');
const SEED = 20_271_101;
const some = <One>(one: fc.Arbitrary<One>) => fc.option(one, { nil: undefined });
const minor = (text: string) => Number(text.replace('.', ''));
const major = (pence: number) => (pence / 100).toFixed(2);
const listed = (terms: object, count = 60): Output['payments'] => {
  const checked = checkTerms(JSON.parse(JSON.stringify(terms)));
  if (!checked.ok) throw new Error(JSON.stringify(checked.faults));
  return listPayments(checked.terms, { count }).payments;
};
/** Changes in the order of time, one a day; those of a day that has one are left out. */
const inOrder = <One extends { date: string }>(changes: readonly One[]) =>
  [...new Map([...changes].map((one) => [one.date, one])).values()].sort((a, b) =>
    a.date < b.date ? -1 : 1,
  );

// Prices that come to whole pence a day: a day costs `daily`, whatever the interval, so that nothing is rounded.

interface Priced {
  readonly name: string;
  readonly daily: number;
  readonly quantity: number;
}
const priced = fc.record({
  name: fc.constantFrom('a', 'b', 'c'),
  daily: fc.integer({ min: 0, max: 40 }),
  quantity: fc.integer({ min: 1, max: 3 }),
});
const linesOf = (lines: readonly Priced[], interval: number) =>
  lines.map(({ name, daily, quantity }) => ({
    ...{ name, quantity },
    price: { scheme: 'each', amount: major(daily * interval) },
  }));
const dailyOf = (lines: readonly Priced[]) =>
  lines.reduce((sum, { daily, quantity }) => sum + daily * quantity, 0);

test('conservation: with everything settled, what is charged in all is the sum over its days of the daily price', () => {
  const changes = fc.array(
    fc.record({
      day: fc.integer({ min: 1, max: 180 }),
      lines: some(fc.array(priced, { minLength: 1, maxLength: 3 })),
      /** A new interval begins, or the next date is moved so many days on. */
      does: fc.oneof(
        fc.record({ interval: fc.constantFrom(10, 30, 45) }),
        fc.record({ moved: fc.integer({ min: 1, max: 50 }) }),
        fc.constant({}),
      ),
      settle: fc.constantFrom('now', 'next'),
    }),
    { maxLength: 6 },
  );
  const life = fc.record({
    lines: fc.array(priced, { minLength: 1, maxLength: 3 }),
    changes,
    days: fc.integer({ min: 181, max: 260 }),
  });
  fc.assert(
    fc.property(life, ({ lines, changes: drawn, days }) => {
      let interval = 30;
      let now: readonly Priced[] = lines;
      const daily = new Map([[0, dailyOf(lines)]]);
      const made = inOrder(drawn.map((one) => ({ ...one, date: formatDay(START + one.day) }))).map((one) => {
        const before = interval;
        if ('interval' in one.does) interval = one.does.interval;
        now = one.lines ?? now;
        daily.set(one.day, dailyOf(now));
        // A new interval needs its own prices, which are those of the same days.
        const fresh = one.lines !== undefined || interval !== before ? { lines: linesOf(now, interval) } : {};
        const schedule = 'interval' in one.does ? { schedule: { interval: `P${interval}D` } } : {};
        const moved =
          'moved' in one.does
            ? { next: formatDay(START + one.day + one.does.moved), nextStub: 'prorate' }
            : {};
        return { date: one.date, ...fresh, ...schedule, ...moved, settle: one.settle };
      });
      const changed = made.filter(({ date: _, settle: __, ...does }) => Object.keys(does).length > 0);
      const payments = listed({
        ...{ currency: 'GBP', starts: formatDay(START), interval: 'P30D', lines: linesOf(lines, 30) },
        ...{ ends: { until: formatDay(START + days - 1) }, endStub: 'prorate', changes: changed },
      });
      let price = 0;
      let expected = 0;
      for (let day = 0; day < days; day += 1) expected += price = daily.get(day) ?? price;
      expect(payments.reduce((sum, { total }) => sum + minor(total), 0)).toBe(expected);
    }),
    { numRuns: 800, seed: SEED },
  );
});

// Everything that a line may have, and changes of every kind.

const amount = fc.integer({ min: 0, max: 9_999 }).map(major);
const off = fc.oneof(
  fc.record({
    percent: fc.constantFrom('10', '33.3', '100'),
    payments: some(fc.integer({ min: 1, max: 3 })),
  }),
  fc.record({ amount, payments: some(fc.integer({ min: 1, max: 3 })) }),
);
const line = fc.record({
  name: fc.constantFrom('a', 'b'),
  quantity: some(fc.integer({ min: 1, max: 4 })),
  price: fc.oneof(
    fc.record({ scheme: fc.constant('each'), amount: fc.constantFrom('7.30', '0.015', '30') }),
    fc.record({ scheme: fc.constant('flat'), amount }),
  ),
  intro: some(fc.record({ payments: fc.integer({ min: 1, max: 3 }), amount })),
  discounts: some(fc.array(off, { maxLength: 2 })),
});
const lines = fc.array(line, { minLength: 1, maxLength: 3 });
const rhythm = fc.constantFrom<object>(
  { interval: 'P1M' },
  { interval: 'P1M', on: { day: 1 } },
  { interval: 'P1M', on: { days: [6, 21] } },
  { interval: 'P1M', on: { nth: 'last', weekday: 'fri' }, stub: 'full' },
  { interval: 'P2W', on: { weekday: 'thu' }, stub: 'free' },
  { interval: 'P3M', on: { day: 'last' } },
);
const day = fc.integer({ min: 0, max: 240 }).map((days) => formatDay(START + days));
const later = fc.integer({ min: 1, max: 50 });
const change = fc
  .record({
    date: day,
    lines: some(lines),
    /** The lines in force once more, one of them in another quantity. */
    again: fc.boolean(),
    schedule: some(rhythm),
    moved: some(fc.record({ days: later, nextStub: some(fc.constantFrom('free', 'prorate')) })),
    ends: some(
      fc.option(fc.oneof(fc.record({ after: fc.integer({ min: 1, max: 9 }) }), fc.record({ days: later }))),
    ),
    settle: fc.constantFrom('now', 'now', 'none', 'next'),
  })
  .map(({ date, moved, ends, schedule, ...rest }) => ({
    ...{ date, ...rest },
    ...(ends === undefined
      ? {}
      : { ends: ends && 'days' in ends ? { until: formatDay(toDay(date) + ends.days) } : ends }),
    ...(moved
      ? { next: formatDay(toDay(date) + moved.days), nextStub: moved.nextStub }
      : schedule
        ? { schedule }
        : {}),
  }));
const documents = fc
  .record({
    lines,
    rhythm,
    changes: fc.array(change, { maxLength: 5 }),
    trial: some(fc.constantFrom({ length: 'P10D' }, { length: 'P1M', amount: '3.00' })),
    setup: some(fc.record({ amount, when: fc.constantFrom('start', 'after-trial') })),
    endStub: some(fc.constantFrom('whole', 'prorate')),
    ends: some(fc.oneof(fc.record({ after: fc.integer({ min: 1, max: 9 }) }), fc.record({ until: day }))),
    tax: some(fc.constantFrom({ rate: '20', mode: 'exclusive' }, { rate: '8.875', mode: 'inclusive' })),
    once: some(fc.array(fc.record({ amount, date: day }), { maxLength: 2 })),
    pauses: some(fc.tuple(day, later, fc.constantFrom({}, { resume: 'restart' }, { rest: 'prorate' }))),
    discounts: some(fc.array(off, { maxLength: 1 })),
  })
  .map(({ rhythm: timing, changes, pauses, ...rest }) => {
    let now = rest.lines;
    const made = inOrder(changes).map(({ again, lines: fresh, ...one }) => {
      const next =
        fresh ??
        (again
          ? now.map((old, i) => (i === 0 ? { ...old, quantity: (old.quantity ?? 1) + 1 } : old))
          : undefined);
      now = next ?? now;
      return { ...one, ...(next ? { lines: next } : {}) };
    });
    return {
      ...{ currency: 'GBP', starts: formatDay(START), ...rest, ...timing },
      changes: made.filter((one) => 'lines' in one || 'schedule' in one || 'next' in one || 'ends' in one),
      ...(pauses
        ? { pauses: [{ from: pauses[0], to: formatDay(toDay(pauses[0]) + pauses[1]), ...pauses[2] }] }
        : {}),
    };
  });
/** Terms that are good, and the document that they were read from. */
const good = documents
  .map((document) => JSON.parse(JSON.stringify(document)) as Document)
  .map((document) => ({ document, checked: checkTerms(document) }))
  .filter(({ checked }) => checked.ok);
const termsOf = ({ checked }: { checked: ReturnType<typeof checkTerms> }) =>
  (checked as { terms: Terms }).terms;

test('no money from nothing: credits never exceed what was charged, whatever is changed and however often', () => {
  fc.assert(
    fc.property(good, (drawn) => {
      const { tax: _, ...terms } = termsOf(drawn) as Record<string, unknown>;
      let charged = 0n;
      for (const { money } of paymentsOf(compileTerms(terms as unknown as Terms), { count: 40 })) {
        charged += money.total;
        expect(charged).toBeGreaterThanOrEqual(0n);
      }
    }),
    { numRuns: 1000, seed: SEED },
  );
});

test('lines that are brought in again as they are go on as if nothing had been said', () => {
  fc.assert(
    fc.property(documents, day, (document, on) => {
      const { changes: _, discounts, ...plain } = JSON.parse(JSON.stringify(document)) as Document;
      const terms = { ...plain, discounts };
      // The same values, written otherwise.
      const again = (plain.lines ?? []).map((one) => ({
        quantity: 1,
        ...one,
        discounts: one.discounts ?? [],
      }));
      if (!checkTerms(terms).ok) return;
      const changed = { ...terms, changes: [{ date: on, lines: again, settle: 'now' }] };
      expect(listed(changed, 20)).toEqual(listed(terms, 20));
    }),
    { numRuns: 600, seed: SEED },
  );
});

test('a calculation made day by day comes to the same payments', () => {
  let compared = 0;
  fc.assert(
    fc.property(good, (drawn) => {
      const { discounts: _, ...document } = drawn.document;
      document.changes?.forEach((one) => Object.assign(one, one.settle === 'next' ? { settle: 'now' } : {}));
      // A schedule carries what comes back into its first payment, which the other calculation does not.
      if (document.changes?.some(({ schedule }) => schedule)) return;
      const until = formatDay(START + 320);
      const checked = checkTerms(document);
      if (!checked.ok) throw new Error('refused');
      const said = listPayments(checked.terms, { until }).payments.map(
        ({ kind, from, to, lines: own, total, credit }) => ({ kind, from, to, lines: own, total, credit }),
      );
      expect(dayByDay(document, until)).toEqual(said);
      compared += said.length;
    }),
    { numRuns: 1500, seed: SEED },
  );
  expect(compared).toBeGreaterThan(5000);
});

test('every worked case is stepped through, with its place stored between any two payments', () => {
  let steps = 0;
  for (const file of ['hand', 'cases']) {
    const text = readFileSync(new URL(`../vectors/${file}.jsonl`, import.meta.url), 'utf8');
    for (const row of text.trim().split('\n')) {
      const {
        id,
        terms,
        horizon,
        expect: said,
      } = JSON.parse(row) as {
        id: string;
        terms: object;
        horizon: Horizon;
        expect: Partial<Output>;
      };
      const checked = checkTerms(terms);
      if (!checked.ok || !said.payments) continue;
      const compiled = compileTerms(checked.terms);
      const writer = new OutputWriter(compiled.digits);
      const stepped: Output['payments'] = [];
      let step = nextPayment(compiled);
      for (; step !== null && stepped.length < said.payments.length; steps += 1) {
        stepped.push(writer.write(step.payment));
        step = nextPayment(compiled, JSON.parse(JSON.stringify(step.after)));
      }
      expect(stepped, `${id} ${JSON.stringify(horizon)}`).toEqual(said.payments);
    }
  }
  expect(steps).toBeGreaterThan(2500);
});

test('a place of another version is not read as one of this', () => {
  const compiled = compileTerms(
    (
      checkTerms({
        currency: 'GBP',
        starts: '2027-01-01',
        interval: 'P1M',
        lines: [{ price: { scheme: 'flat', amount: '1' } }],
      }) as { terms: Terms }
    ).terms,
  );
  const after = nextPayment(compiled)?.after;
  expect(() => nextPayment(compiled, { ...after, version: 1 } as never)).toThrow('version 1');
});
