import { expect, test } from 'vitest';
import { toDay } from '../dates/day.ts';
import { requireTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import { monthlyValue } from './monthlyValue.ts';
import { movements } from './movements.ts';

const flat = (amount: string, more: object = {}) => ({ price: { scheme: 'flat', amount }, ...more });
const value = (terms: object, day = '2027-06-15') =>
  monthlyValue(
    compileTerms(requireTerms({ currency: 'GBP', starts: '2027-01-01', interval: 'P1M', ...terms })),
    toDay(day),
  );

test.each([
  ['a year is a twelfth a month', { lines: [flat('100.00')], interval: 'P1Y' }, 833n],
  ['a quarter is a third', { lines: [flat('30.00')], interval: 'P3M' }, 1000n],
  ['ten days are 36.5 a year', { lines: [flat('10.00')], interval: 'P10D' }, 3042n],
  ['two weeks are 26 a year', { lines: [flat('12.00')], interval: 'P2W' }, 2600n],
  ['twice a month is 24 a year', { lines: [flat('35.00')], on: { days: [6, 21] } }, 7000n],
  [
    'exact over the whole sum, rounded once',
    { lines: [flat('0.01'), flat('0.01'), flat('0.01')], interval: 'P2M' },
    2n,
  ],
  ['inclusive tax is taken out', { lines: [flat('12.00')], tax: { rate: '20', mode: 'inclusive' } }, 1000n],
  ['exclusive tax is not in it', { lines: [flat('12.00')], tax: { rate: '20', mode: 'exclusive' } }, 1200n],
  [
    'discounts without limit count, limited ones do not',
    { lines: [flat('10.00')], discounts: [{ percent: '10' }, { amount: '5.00', payments: 3 }] },
    900n,
  ],
  [
    'an amount is shared exactly',
    {
      lines: [flat('10.00', { tax: { rate: '25', mode: 'inclusive' } }), flat('20.00')],
      discounts: [{ amount: '3.00' }],
    },
    2520n,
  ],
  [
    'a first price does not count',
    { lines: [flat('10.00', { intro: { payments: 3, amount: '1.00' } })] },
    1000n,
  ],
  [
    'instalments count nothing',
    { lines: [{ price: { scheme: 'instalments', total: '700.00' } }], ends: { after: 7 } },
    0n,
  ],
  [
    'set-up and once amounts count nothing',
    { lines: [flat('10.00')], setup: { amount: '99.00' }, once: [{ amount: '50.00', date: '2027-06-01' }] },
    1000n,
  ],
  [
    'by the lines and interval in force that day',
    {
      lines: [flat('10.00')],
      changes: [{ date: '2027-06-10', lines: [flat('240.00')], schedule: { interval: 'P1Y' } }],
    },
    2000n,
  ],
  [
    'a later change is not in force yet',
    { lines: [flat('10.00')], changes: [{ date: '2027-07-01', lines: [flat('20.00')] }] },
    1000n,
  ],
])('%s', (_, terms, expected) => expect(value(terms)).toBe(expected));

test('opening plus the movements is closing', () => {
  const moved = movements([
    { before: 0n, after: 10n, hadValueEarlier: false },
    { before: 0n, after: 7n, hadValueEarlier: true },
    { before: 10n, after: 15n, hadValueEarlier: true },
    { before: 20n, after: 12n, hadValueEarlier: true },
    { before: 9n, after: 0n, hadValueEarlier: true },
  ]);
  expect(moved).toEqual({ opening: 39n, new: 10n, back: 7n, more: 5n, less: -8n, lost: -9n, closing: 44n });
});
