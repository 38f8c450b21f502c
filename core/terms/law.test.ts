import { expect, test } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import { paymentsOf } from '../listing/listPayments.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { Law, type LawFacts, type LawRate } from './law.ts';
import type { Terms } from './schema.ts';

const rate = (facts: Partial<LawRate>): LawRate => ({
  taxId: '1',
  name: 'VAT',
  percent: '20',
  mode: 'exclusive',
  country: null,
  region: '',
  from: '2020-01-01',
  to: null,
  ...facts,
});
const law = new Law({
  said: 'net',
  rates: [
    rate({ country: 'GB', to: '2027-03-01' }),
    rate({ country: 'GB', percent: '22.5', from: '2027-03-01' }),
    rate({ country: 'IE', percent: '23', mode: 'inclusive' }),
    rate({ country: 'IE', region: 'Burren', percent: '9' }),
    rate({ percent: '5' }),
  ],
  weekends: [
    { country: '', days: ['sat', 'sun'] },
    { country: 'KW', days: ['fri', 'sat'] },
  ],
  holidays: [
    { country: 'GB', date: '2027-02-01' },
    { country: '', date: '2027-04-01' },
  ],
  homeCountry: 'GB',
});
const terms = {
  currency: 'GBP',
  starts: '2027-01-01',
  interval: 'P1M',
  lines: [{ price: { scheme: 'flat', amount: '10.00' } }],
} as Terms;
const facts = (more: Partial<LawFacts> = {}): LawFacts => ({
  terms,
  tax_id: '1',
  works_by: null,
  shift: null,
  country: null,
  region: '',
  tax_exempt: '',
  ...more,
});
const totals = (asked: LawFacts, count = 4) =>
  [...paymentsOf(law.compile(asked), { count })].map(({ money }) => money.total);

test('a rate counts from its first day, and the one before until then', () => {
  expect(totals(facts())).toEqual([1200n, 1200n, 1225n, 1225n]);
});

test('the most exact place counts: region, country, everywhere else; and whoever is exempt pays none', () => {
  expect(totals(facts({ country: 'IE' }), 1)).toEqual([1000n]);
  expect(totals(facts({ country: 'IE', region: ' BURREN ' }), 1)).toEqual([1090n]);
  expect(totals(facts({ country: 'FR' }), 1)).toEqual([1050n]);
  expect(totals(facts({ tax_exempt: 'a charity' }), 1)).toEqual([1000n]);
});

test('terms that name a tax keep it, a line’s own tax too, and without a tax none is charged', () => {
  expect(totals(facts({ terms: { ...terms, tax: { rate: '10', mode: 'exclusive' } } as Terms }), 3)).toEqual([
    1100n,
    1100n,
    1100n,
  ]);
  const lines = [
    { price: { scheme: 'flat', amount: '10.00' } },
    { price: { scheme: 'flat', amount: '10.00' }, tax: { rate: '0', mode: 'exclusive' } },
  ];
  expect(totals(facts({ terms: { ...terms, lines } as Terms }), 1)).toEqual([2200n]);
  expect(totals(facts({ tax_id: null }), 1)).toEqual([1000n]);
});

test('stepping payment by payment, each from stored data, gives what listing gives', () => {
  const compiled = law.compile(facts());
  const stepped: bigint[] = [];
  let place: string | null = null;
  for (let i = 0; i < 6; i += 1) {
    const walk: PaymentWalk = new PaymentWalk(compiled, place === null ? undefined : JSON.parse(place));
    const payment = walk.next();
    if (payment) stepped.push(payment.money.total);
    place = JSON.stringify(walk.position());
  }
  expect(stepped).toEqual(totals(facts(), 6));
});

test('due dates keep to the working days of the customer’s country, and of everywhere', () => {
  const due = (works_by: string) =>
    [...paymentsOf(law.compile(facts({ works_by, shift: 'next' })), { count: 4 })].map(({ dueOn }) =>
      formatDay(dueOn),
    );
  expect(due('GB')).toEqual(['2027-01-01', '2027-02-02', '2027-03-01', '2027-04-02']);
  expect(due('KW')).toEqual(['2027-01-03', '2027-02-01', '2027-03-01', '2027-04-04']);
  expect(law.taxOn('1', facts(), toDay('2027-03-01'))).toBe(law.taxOn('1', facts(), toDay('2028-01-01')));
});
