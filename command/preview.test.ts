import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { listPayments } from '../core/listing/listPayments.ts';
import { requireTerms } from '../core/terms/check.ts';
import { ROOT } from './settings.ts';

const GOOD = {
  currency: 'GBP',
  starts: '2027-01-31',
  lines: [{ price: { scheme: 'flat', amount: '10.00' } }],
  interval: 'P1M',
};
const BAD = { ...GOOD, interval: 'P1.5M', lines: [{ price: { scheme: 'flat', amount: '1e3' } }] };

function preview(input: string, ...words: string[]): { status: number | null; out: string; error: string } {
  const { status, stdout, stderr } = spawnSync(join(ROOT, 'almanac'), ['preview', '-', ...words], {
    input,
    encoding: 'utf8',
  });
  return { status, out: stdout, error: stderr };
}

test('prints a dated table with the running total', () => {
  const { status, out } = preview(JSON.stringify(GOOD), '--count', '2');
  expect(status).toBe(0);
  expect(out).toMatch(/2027-02-28 {2}2027-03-31 {2}2027-02-28 {2}period .* 20\.00\n/);
});

test('prints the JSON of the output, and a problem with pointers where it refuses', () => {
  const good = preview(JSON.stringify(GOOD), '--until', '2027-02-28', '--json');
  expect(JSON.parse(good.out)).toMatchObject({
    payments: [{ to: '2027-02-28' }, { to: '2027-03-31' }],
    ends: null,
    sum: '20.00',
  });
  const bad = preview(JSON.stringify(BAD), '--json');
  expect(bad.status).toBe(1);
  const { errors } = JSON.parse(bad.out) as { errors: { pointer: string }[] };
  expect(errors.map(({ pointer }) => pointer).sort()).toEqual(['/interval', '/lines/0/price/amount']);
  expect(preview(JSON.stringify(BAD)).error).toContain('/interval: Give a length such as P14D');
});

test('says what credit is left, and prints the same output as a listing', () => {
  const half = { date: '2027-02-14', lines: [{ price: { scheme: 'flat', amount: '2.00' } }] };
  const terms = { ...GOOD, ends: { after: 1 }, changes: [half] };
  const listed = listPayments(requireTerms(terms), null);
  expect(listed.creditLeft).toBe('4.00');
  expect(JSON.parse(preview(JSON.stringify(terms), '--json').out)).toEqual(listed);
  expect(preview(JSON.stringify(terms)).out).toContain('4.00 of credit is not used up.');
});

test('answers JSON Lines one for one, in order, and goes on after a bad line', () => {
  const lines = [
    JSON.stringify({ id: 'a', about: 'passed over', terms: GOOD, horizon: { count: 1 } }),
    'no JSON',
    JSON.stringify({ id: 'b', terms: BAD, horizon: null }),
    JSON.stringify(GOOD),
  ];
  const answers = preview(lines.join('\n'), '--lines', '--json')
    .out.trim()
    .split('\n')
    .map((line) => JSON.parse(line) as object);
  expect(answers).toMatchObject([
    { id: 'a', output: { sum: '10.00' } },
    { errors: [{ pointer: '' }] },
    { id: 'b', errors: [{}, {}] },
    { output: { sum: '120.00' } },
  ]);
});
