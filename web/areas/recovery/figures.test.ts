import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { sumOf, sumsBy, type CaseFacts } from '../../../core/recovery/figures.ts';
import type { Estimate, Replayed } from '../../../core/whatIf/replay.ts';
import { csvOf } from '../../parts/saveCsv.ts';
import { sayShare } from '../../parts/sayShare.ts';
import { lostTable, sayMonth, sumTable } from './figures/figureTables.ts';
import { comparison, paidByDay } from './whatIf/whatIfWords.ts';

const fact = (changes: Partial<CaseFacts>): CaseFacts => ({
  ...{
    month: '2027-01',
    reason: 'No money',
    ladder: 'Steady',
    rungs: 1,
    how: 'by a retry',
    isRecovered: true,
  },
  ...{ days: 3, cases: 1, failed: 1000, recovered: 1000 },
  ...changes,
});

describe('figures as tables and files', () => {
  const facts = [
    fact({ cases: 3, failed: 300_000, recovered: 300_000 }),
    fact({
      reason: 'Lost',
      how: 'climbed to its end',
      isRecovered: false,
      failed: 123_456,
      recovered: 0,
      days: 14,
    }),
    fact({
      reason: 'Lost',
      how: 'climbed to its end',
      ladder: 'Quiet',
      isRecovered: false,
      failed: 44,
      recovered: 0,
    }),
    fact({ how: null, isRecovered: false, days: null, failed: 500, recovered: 200 }),
  ];
  const table = sumTable(
    'by-reason',
    'Reason',
    sumsBy(facts, ({ reason }) => reason),
    'GBP',
  );

  test('a table says amounts as they are read, a file as plain numbers, in the same columns', () => {
    expect(table.rows[0]).toEqual([
      'No money',
      '4',
      '3,005.00',
      '3,002.00',
      '100.0',
      '3.00',
      '0.00',
      '0',
      '3.0',
    ]);
    expect(table.plain?.[0]).toEqual([
      'No money',
      '4',
      '3005.00',
      '3002.00',
      '100.0',
      '3.00',
      '0.00',
      '0',
      '3.0',
    ]);
    // None was recovered: there are no days to say.
    expect(table.rows[1]).toEqual(['Lost', '2', '1,235.00', '0.00', '0.0', '0.00', '1,235.00', '2', '']);
    for (const row of [...table.rows, ...(table.plain ?? [])]) expect(row).toHaveLength(table.columns.length);
  });

  test('a currency of three decimals, or none, has its own', () => {
    expect(sumTable('x', 'All', [['all', sumOf(facts)]], 'KWD').rows[0]?.[2]).toBe('424.000');
    expect(sumTable('x', 'All', [['all', sumOf(facts)]], 'JPY').plain?.[0]?.[2]).toBe('424000');
  });

  test('what was lost is put together by why and how, the most first; what is open or recovered is not among it', () => {
    expect(lostTable(facts, 'GBP').rows).toEqual([['Lost: climbed to its end', '2', '1,235.00']]);
    const both = [
      ...facts,
      fact({ how: 'by a credit note', isRecovered: false, failed: 999_900, recovered: 0 }),
    ];
    expect(lostTable(both, 'GBP').plain).toEqual([
      ['No money: by a credit note', '1', '9999.00'],
      ['Lost: climbed to its end', '2', '1235.00'],
    ]);
    expect(lostTable([], 'GBP').rows).toEqual([]);
  });

  test('months are said short, and stay in their own month wherever the browser is', () => {
    expect([sayMonth('2027-01'), sayMonth('2026-12')]).toEqual(['Jan 2027', 'Dec 2026']);
  });
});

describe('ladders as they are compared', () => {
  const sure = (value: number): Estimate => ({ middle: value, low: value, high: value });
  const replayed = (money: number, changes: Partial<Replayed> = {}): Replayed => ({
    ...{ money: { middle: money, low: money - 100, high: money + 100 }, recovered: sure(8) },
    ...{
      retriesEach: sure(1.26),
      lettersEach: sure(2),
      days: sure(4.04),
      paidBy: [0.1, 0.25],
      moreThanFirst: sure(0),
    },
    ...changes,
  });
  const less: Estimate = { middle: -2550, low: -4000, high: 0 };
  const ladders = [
    { name: 'Steady', of: replayed(123_450) },
    { name: '=cmd|calc', of: replayed(1000, { moreThanFirst: less, paidBy: [0.1, 0.2, 0.5] }) },
  ];

  test('an interval stands under its middle, and none where there is none; the first is held against nothing', () => {
    const { rows, plain = [], plainColumns = [] } = comparison(ladders, 'GBP', 10_000);
    expect(rows[0]).toEqual(['Steady', '1,234.50\n1,233.50 to 1,235.50', '', '8', '1.3', '2.0', '4.0']);
    expect(rows[1]?.[2]).toBe('−25.50\n−40.00 to 0.00');
    expect(plain[1]?.slice(4, 7)).toEqual(['-25.50', '-40.00', '0.00']);
    for (const row of plain) expect(row).toHaveLength(plainColumns.length);
  });

  test('where a ladder has ended, what was paid by then stays', () => {
    expect(paidByDay(ladders).rows).toEqual([
      ['0', '10.0', '10.0'],
      ['1', '25.0', '20.0'],
      ['2', '25.0', '50.0'],
    ]);
  });

  test('in the file a name cannot become a formula, and a sum below zero stays a number', () => {
    const { plain = [], plainColumns = [] } = comparison(ladders, 'GBP', 2);
    const text = csvOf(plainColumns, plain);
    expect(text).toContain("\r\n'=cmd|calc,");
    expect(text).toContain(',-25.50,');
  });
});

test('whatever stands in cells comes out of the file as it went in, but for what begins like a formula', () => {
  const cell = fc
    .string({ maxLength: 12 })
    .filter((text) => !/^[=+\-@\t\r\uFF1D\uFF0B\uFF0D\uFF20]/.test(text));
  fc.assert(
    fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 8 }), (rows) => {
      const read: unknown = parse(csvOf(['One', 'Two, and more'], rows), { bom: true });
      expect(read).toEqual([['One', 'Two, and more'], ...rows]);
    }),
  );
});

test('a share is never said to be all or none that is not', () => {
  expect([0, 0.001, 0.005, 0.4, 0.994, 0.9999, 1].map(sayShare)).toEqual([
    '0 %',
    'under 1 %',
    '1 %',
    '40 %',
    '99 %',
    'over 99 %',
    '100 %',
  ]);
});
