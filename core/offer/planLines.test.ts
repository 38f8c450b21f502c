import { expect, test } from 'vitest';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { Law, type LawFacts } from '../terms/law.ts';
import { requireTerms } from '../terms/check.ts';
import type { Terms } from '../terms/schema.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import { linesOfPlans, whyApart } from './planLines.ts';

const rate = (lines: object[], more: object = {}): RateTerms =>
  ({ currency: 'GBP', interval: 'P1M', lines, ...more }) as unknown as RateTerms;
const flat = (amount: string, name?: string) => ({
  ...(name === undefined ? {} : { name }),
  price: { scheme: 'flat', amount },
});
const terms = (of: RateTerms) => composeTerms(of, { starts: '2027-01-01' });
const other = (plan: string, lines: object[], taxId = '1', account = '') => ({
  ...{ plan, taxId, account, terms: terms(rate(lines)) },
});

test('lines are called as in their rate, and say their plan where a name is taken; only what differs is kept apart', () => {
  const host = { terms: terms(rate([flat('1.00', 'Row'), flat('2.00')])), taxId: '1', account: '' };
  const { extras, sources } = linesOfPlans(
    [
      other('Shelf', [flat('3.00', 'Row'), flat('4.00', 'Jar')]),
      other('Shelf', [flat('5.00', 'Row'), flat('6.00')], '2', '4020'),
    ],
    host,
  );
  expect(extras.map(({ extra }) => extra.name)).toEqual(['Shelf: Row', 'Jar', 'Shelf: Row (2)', 'Shelf']);
  expect(new Set(extras.map(({ extra }) => extra.key)).size).toBe(4);
  expect(sources).toEqual([
    { line: 'Shelf: Row (2)', taxId: '2', account: '4020' },
    { line: 'Shelf', taxId: '2', account: '4020' },
  ]);
});

test('first prices, discounts and a tax that a rate fixes come with its lines', () => {
  const line = {
    ...flat('10.00', 'Jar'),
    intro: { payments: 1, amount: '5.00' },
    discounts: [{ percent: '10' }],
  };
  const fixed = rate([line], { tax: { rate: '5', mode: 'inclusive' } });
  const host = rate([flat('1.00', 'Row')], { tax: { rate: '20', mode: 'exclusive' } });
  expect(whyApart(fixed, host)).toBeNull();
  const { extras } = linesOfPlans([{ plan: 'Shelf', terms: terms(fixed), taxId: null, account: '' }], {
    terms: terms(host),
    taxId: null,
    account: '',
  });
  const both = requireTerms(composeTerms(host, { starts: '2027-01-01', beside: extras }));
  expect((both as { lines: object[] }).lines[1]).toMatchObject({
    ...line,
    tax: { rate: '5', mode: 'inclusive' },
  });
});

test.each([
  ['once', { lines: undefined, once: [{ name: 'Kit', amount: '9.00' }] }, 'sold once'],
  ['a currency', { currency: 'EUR' }, 'charged in EUR'],
  ['an interval', { interval: 'P3M' }, 'another interval'],
  ['instalments', { lines: [{ price: { scheme: 'instalments', total: '70.00' } }] }, 'instalments'],
  ['a fixed tax', { tax: { rate: '5', mode: 'inclusive' } }, 'tax is set otherwise'],
])('%s keeps a rate apart', (_what, more, says) => {
  const all = { ...rate([flat('3.00')]), ...more };
  const odd = Object.fromEntries(Object.entries(all).filter(([, value]) => value !== undefined)) as never;
  expect(whyApart(odd, rate([flat('1.00')]))).toContain(says);
});

test('each line follows the law of its own tax, day by day, and a change settles it with that', () => {
  const dated = (taxId: string, percent: string, from: string, to: string | null) => ({
    ...{ taxId, name: taxId, percent, mode: 'exclusive' as const, country: null, region: '', from, to },
  });
  const law = new Law({
    rates: [
      dated('1', '20', '2020-01-01', null),
      dated('2', '5', '2020-01-01', '2027-03-01'),
      dated('2', '6', '2027-03-01', null),
    ],
    ...{ weekends: [], holidays: [], homeCountry: 'GB', said: 'net' },
  });
  const lines = [flat('100.00', 'Row'), flat('100.00', 'Jar')];
  const facts = (changes: object[] = []): LawFacts => ({
    terms: requireTerms({ ...terms(rate(lines)), ...(changes.length > 0 ? { changes } : {}) }) as Terms,
    ...{ tax_id: '1', works_by: null, shift: null, country: null, region: '', tax_exempt: '' },
    line_sources: [{ line: 'Jar', taxId: '2', account: '' }],
  });
  const taxes = (of: LawFacts, count: number) => {
    const walk = new PaymentWalk(law.compile(of));
    return Array.from({ length: count }, () => walk.next()?.money.tax);
  };
  expect(taxes(facts(), 4)).toEqual([2500n, 2500n, 2600n, 2600n]);
  expect(taxes({ ...facts(), tax_exempt: 'a charity' }, 2)).toEqual([0n, 0n]);
  // Without a tax of its own the subscription still leaves that of the line to the law.
  expect(taxes({ ...facts(), tax_id: null }, 1)).toEqual([500n]);
  const dearer = [lines[0], flat('200.00', 'Jar')];
  // On 11 January of 31 days, 21 are left: −67.74 and 135.48, with 5 % of what is between them.
  expect(taxes(facts([{ date: '2027-01-11', lines: dearer }]), 3)).toEqual([2500n, 339n, 3000n]);
});
