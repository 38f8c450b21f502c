import * as fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseDecimal } from '../money/decimal.ts';
import { taxGroups } from '../pricing/tax.ts';
import {
  correctAmount,
  correctInFull,
  correctLines,
  leftAfter,
  type Correctable,
  type Correction,
} from './correct.ts';

// An invoice is drawn up by the rules of payments, and taken back in any number of steps. However that is done, what was given
// back in the end is what was asked for, to the unit of each line and each tax.

const RATES = ['0', '5', '8.875', '20', '21'] as const;

const aLine = fc.record({
  amount: fc.bigInt({ min: 1n, max: 500_000n }),
  rate: fc.constantFrom(null, ...RATES),
  mode: fc.constantFrom('exclusive' as const, 'inclusive' as const),
});

/** An invoice as one would be issued for some lines. */
function invoiceOf(
  lines: readonly { amount: bigint; rate: string | null; mode: 'exclusive' | 'inclusive' }[],
): Correctable {
  const taxed = lines.map(({ amount, rate, mode }) => ({
    amount,
    tax: rate === null ? null : { rate: parseDecimal(rate, 4), mode },
  }));
  const groups = taxGroups(taxed).filter((group) => group.tax !== null);
  return {
    lines: taxed.map(({ amount, tax }) => {
      const at = groups.findIndex((group) => group.tax?.rate === tax?.rate && group.tax?.mode === tax?.mode);
      return { amount, tax: tax === null ? null : at };
    }),
    taxes: groups.map(({ tax, taxed: { net, tax: sum } }) => ({
      mode: tax?.mode ?? 'exclusive',
      net,
      tax: sum,
    })),
  };
}

const anInvoice = fc.array(aLine, { minLength: 1, maxLength: 6 }).map(invoiceOf);
const steps = fc.array(
  fc.record({ by: fc.constantFrom('lines', 'amount'), parts: fc.array(fc.nat(100), { maxLength: 6 }) }),
  {
    maxLength: 6,
  },
);

const sum = (amounts: readonly bigint[]) => amounts.reduce((total, amount) => total + amount, 0n);

describe('an invoice that is taken back', () => {
  test('comes to nothing in the end, whatever was taken back before', () => {
    fc.assert(
      fc.property(anInvoice, steps, (invoice, taken) => {
        const notes: Correction[] = [];
        for (const { by, parts } of taken) {
          const left = leftAfter(invoice, notes);
          if (left.total === 0n) break;
          const note =
            by === 'amount'
              ? correctAmount(left, (left.total * BigInt(parts[0] ?? 50)) / 100n || 1n)
              : correctLines(
                  left,
                  left.lines.map((line, i) => (line * BigInt(parts[i] ?? 0)) / 100n),
                );
          expect(note).not.toBeNull();
          if (note && note.total !== 0n) notes.push(note);
          // Nothing is ever given back of what is not there any more.
          for (const line of leftAfter(invoice, notes).lines) expect(line).toBeGreaterThanOrEqual(0n);
          for (const { tax, net } of leftAfter(invoice, notes).taxes) {
            expect(tax).toBeGreaterThanOrEqual(0n);
            expect(net).toBeGreaterThanOrEqual(-1n);
          }
        }
        notes.push(correctInFull(leftAfter(invoice, notes)));
        invoice.lines.forEach(({ amount }, i) =>
          expect(sum(notes.map((note) => note.lines[i] ?? 0n))).toBe(amount),
        );
        invoice.taxes.forEach(({ net, tax }, i) => {
          expect(sum(notes.map((note) => note.taxes[i]?.net ?? 0n))).toBe(net);
          expect(sum(notes.map((note) => note.taxes[i]?.tax ?? 0n))).toBe(tax);
        });
        for (const note of notes) expect(note.net + note.tax).toBe(note.total);
      }),
      { numRuns: 400 },
    );
  });

  test('gives exactly the sum that is asked for, with its share of each tax', () => {
    fc.assert(
      fc.property(anInvoice, fc.bigInt({ min: 1n, max: 99n }), (invoice, percent) => {
        const left = leftAfter(invoice, []);
        const asked = (left.total * percent) / 100n || 1n;
        const note = correctAmount(left, asked);
        expect(note?.total).toBe(asked);
        invoice.taxes.forEach(({ tax }, i) => {
          // Within the units that sharing and rounding can move.
          const exact = (Number(tax) * Number(asked)) / Number(left.total);
          expect(Math.abs(Number(note?.taxes[i]?.tax) - exact)).toBeLessThanOrEqual(1.5);
        });
      }),
      { numRuns: 400 },
    );
  });

  test('gives back the tax of a line by its rate', () => {
    const invoice = invoiceOf([
      { amount: 6000n, rate: '20', mode: 'inclusive' },
      { amount: 6000n, rate: '20', mode: 'inclusive' },
      { amount: 1000n, rate: null, mode: 'exclusive' },
    ]);
    const left = leftAfter(invoice, []);
    expect(correctLines(left, [6000n, 0n, 0n])).toEqual({
      ...{
        lines: [6000n, 0n, 0n],
        taxes: [{ net: 5000n, tax: 1000n }],
        net: 5000n,
        tax: 1000n,
        total: 6000n,
      },
    });
    expect(correctLines(left, [0n, 0n, 400n])).toMatchObject({ net: 400n, tax: 0n, total: 400n });
  });

  test('refuses more than is left, of a line and of the whole', () => {
    const invoice = invoiceOf([{ amount: 1000n, rate: '20', mode: 'exclusive' }]);
    const left = leftAfter(invoice, []);
    expect(left.total).toBe(1200n);
    for (const amounts of [[1001n], [-1n]]) expect(correctLines(left, amounts)).toBeNull();
    for (const total of [1201n, 0n, -5n]) expect(correctAmount(left, total)).toBeNull();
    const first = correctAmount(left, 700n);
    expect(first).not.toBeNull();
    if (first) expect(correctAmount(leftAfter(invoice, [first]), 501n)).toBeNull();
  });

  test('takes back a line below zero with the others, and no further', () => {
    const invoice = invoiceOf([{ amount: 5000n, rate: '20', mode: 'exclusive' }]);
    const lines = [...invoice.lines, { amount: -1000n, tax: 0 }];
    const settled: Correctable = { lines, taxes: [{ mode: 'exclusive', net: 4000n, tax: 800n }] };
    const left = leftAfter(settled, []);
    expect(correctInFull(left)).toMatchObject({ lines: [5000n, -1000n], net: 4000n, tax: 800n });
    expect(correctLines(left, [5000n, -1001n])).toBeNull();
    expect(correctLines(left, [5000n, -1000n])).toMatchObject({ total: 4800n });
    expect(correctAmount(left, 4801n)).toBeNull();
    expect(correctAmount(left, 2400n)).toMatchObject({ total: 2400n, tax: 400n });
  });
});
