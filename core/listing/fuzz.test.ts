import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { formatDay, LAST_DAY, toDay } from '../dates/day.ts';
import { checkTerms } from '../terms/check.ts';
import { RefusedTerms } from '../terms/fault.ts';
import { answerLine } from './answerLine.ts';
import { listPayments } from './listPayments.ts';

describe('no input crashes or hangs it', () => {
  const values = fc.constantFrom<unknown>(
    null,
    -1,
    0,
    1.5,
    1e9,
    2 ** 53,
    'P999Y',
    'P0D',
    'P1M',
    'P1.5M',
    '',
    '1e9',
    '-5',
    '0.0000000000001',
    '9'.repeat(30),
    '2027-02-30',
    '0000-01-01',
    '9999-12-31',
    '0001-01-01',
    [],
    {},
    [null],
    'last',
    'mon',
    true,
    { after: 1e9 },
    '__proto__',
  );

  test('whatever stands in whatever place', () => {
    const base = () => ({
      currency: 'GBP',
      starts: '2027-01-31',
      interval: 'P1M',
      on: { day: 31 },
      stub: 'prorate',
      terms: 'P0D',
      lines: [
        {
          quantity: 2,
          price: {
            scheme: 'reached-tier',
            tiers: [
              { to: 5, each: '1' },
              { to: null, each: '2' },
            ],
          },
          intro: { payments: 1, amount: '5' },
        },
      ],
      trial: { length: 'P14D', amount: '1' },
      setup: { amount: '3' },
      once: [{ amount: '1', date: '2027-03-01' }],
      ends: { after: 3 },
      discounts: [{ percent: '10' }],
      tax: { rate: '20', mode: 'exclusive' },
      workingDays: { shift: 'next', weekend: ['sat'], holidays: ['2027-02-01'] },
      pauses: [{ from: '2027-04-01', to: '2027-05-01' }],
      changes: [{ date: '2027-06-01', next: '2027-06-20' }],
    });
    const places = [
      'currency',
      'starts',
      'interval',
      'on',
      'on.day',
      'stub',
      'terms',
      'lines',
      'lines.0',
      'lines.0.quantity',
      'lines.0.price',
      'lines.0.price.scheme',
      'lines.0.price.tiers',
      'lines.0.price.tiers.0.to',
      'lines.0.price.tiers.0.each',
      'lines.0.intro',
      'lines.0.intro.amount',
      'trial',
      'trial.length',
      'setup',
      'setup.amount',
      'once',
      'once.0',
      'once.0.date',
      'ends',
      'ends.after',
      'ends.until',
      'discounts',
      'discounts.0.percent',
      'discounts.0.amount',
      'tax',
      'tax.rate',
      'workingDays',
      'workingDays.weekend',
      'workingDays.holidays',
      'pauses',
      'pauses.0.to',
      'changes',
      'changes.0.date',
      'changes.0.next',
      'changes.0.lines',
      'changes.0.schedule',
      'changes.0.ends',
      'unheard-of',
    ];
    const put = (document: unknown, place: string, value: unknown) => {
      const path = place.split('.');
      const last = path.pop() ?? '';
      const holder = path.reduce<unknown>(
        (at, key) => (at as Record<string, unknown> | null)?.[key],
        document,
      );
      if (holder !== null && typeof holder === 'object' && last !== 'length')
        Object.defineProperty(holder, last, { value, enumerable: true, configurable: true, writable: true });
    };
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...places), values), { minLength: 1, maxLength: 3 }),
        (edits) => {
          const document = base();
          for (const [place, value] of edits) put(document, place, value);
          const answer = answerLine(JSON.stringify({ id: 'x', terms: document, horizon: { count: 40 } }));
          if ('errors' in answer) {
            expect(answer.errors.length).toBeGreaterThan(0);
            for (const { detail } of answer.errors) expect(detail).toMatch(/^[A-Z].*[.:)}]$/s);
          } else expect(answer.output.payments.length).toBeLessThanOrEqual(40);
        },
      ),
      { numRuns: 3000, seed: 7 },
    );
  });

  test('any JSON at all, and what is no JSON', () =>
    fc.assert(
      fc.property(fc.oneof(fc.json(), fc.string()), (text) => void answerLine(text)),
      { numRuns: 1000, seed: 7 },
    ));

  const enormous = (more: object) =>
    answerLine(
      JSON.stringify({
        currency: 'GBP',
        starts: '2027-01-01',
        lines: [{ price: { scheme: 'flat', amount: '1.00' } }],
        interval: 'P1D',
        ...more,
      }),
      { count: 3 },
    );

  test('terms that run to the end of the calendar, and past it', () => {
    expect(enormous({ interval: 'P999Y' })).toMatchObject({ output: { ends: null } });
    expect(enormous({ interval: 'P999Y', ends: { after: 12 } })).toMatchObject({
      errors: [{ pointer: '/ends/after' }],
    });
    expect(enormous({ ends: { after: 1e9 } })).toMatchObject({ errors: [{ pointer: '/ends/after' }] });
    expect(enormous({ ends: { until: '9999-12-30' } })).toMatchObject({
      output: { payments: expect.any(Array) as unknown },
    });
    const steps = listAllOf({ interval: 'P999Y' });
    expect(toDay(steps.at(-1)?.to ?? '')).toBeLessThanOrEqual(LAST_DAY);
  });

  test('10,000 pauses and 10,000 changes', () => {
    const day = (n: number) => formatDay(toDay('2027-01-01') + n);
    const pauses = Array.from({ length: 10_000 }, (_, n) => ({
      from: day(3 * n),
      to: day(3 * n + 1),
      resume: n % 2 ? 'keep' : 'restart',
    }));
    expect(enormous({ pauses, ends: { after: 30_000 } })).toHaveProperty('output');
    const changes = Array.from({ length: 10_000 }, (_, n) => ({
      date: day(n),
      lines: [{ price: { scheme: 'flat', amount: '2.00' } }],
      settle: 'next',
    }));
    expect(enormous({ interval: 'P1M', changes })).toHaveProperty('output');
  });

  function listAllOf(more: object) {
    const answer = answerLine(
      JSON.stringify({
        terms: {
          currency: 'GBP',
          starts: '2027-01-01',
          lines: [{ price: { scheme: 'flat', amount: '1.00' } }],
          ...more,
        },
        horizon: { count: 100 },
      }),
    );
    if ('errors' in answer) throw new RefusedTerms(answer.errors);
    return answer.output.payments;
  }
});

test('amounts of 10^12 minor units and quantities of 10^9 stay exact', () => {
  const terms = checkTerms({
    currency: 'GBP',
    starts: '2027-01-01',
    lines: [{ quantity: 1_000_000_000, price: { scheme: 'each', amount: '9999999999.99' } }],
    interval: 'P1M',
    tax: { rate: '20', mode: 'exclusive' },
  });
  if (!terms.ok) throw new Error('refused');
  const [payment] = listPayments(terms.terms, { count: 1 }).payments;
  expect(payment?.lines).toEqual(['9999999999990000000.00']);
  expect(payment?.total).toBe('11999999999988000000.00');
});
