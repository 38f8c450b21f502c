import fc from 'fast-check';
import { expect, test } from 'vitest';
import { paymentsOf } from '../listing/listPayments.ts';
import { Law, type LawData } from '../terms/law.ts';
import type { Terms } from '../terms/schema.ts';
import { toDay } from '../dates/day.ts';
import { sayAgreed } from './sayAgreed.ts';
import { sayRate } from './sayRate.ts';
import { sayTaxed, type SayableTax } from './sayTax.ts';

const vat: SayableTax = { percent: '20', mode: 'exclusive', name: 'VAT', said: 'net' };

test('a price says what comes on top and what is paid, by how the business thinks', () => {
  expect(sayTaxed(3000n, 'GBP', vat)).toBe('£30.00 + 20 % VAT = £36.00');
  expect(sayTaxed(3000n, 'GBP', { ...vat, said: 'gross' })).toBe('£36.00 (£30.00 + 20 % VAT)');
  expect(sayTaxed(3600n, 'GBP', { ...vat, mode: 'inclusive' })).toBe('£30.00 + 20 % VAT = £36.00');
  expect(sayTaxed(3000n, 'GBP', null)).toBe('£30.00 (no tax)');
  expect(sayTaxed(3000n, 'GBP', undefined)).toBe('£30.00');
  const each = {
    currency: 'GBP',
    interval: 'P1M',
    lines: [{ price: { scheme: 'each', amount: '4.50' } }],
  };
  expect(sayRate(each as never, vat)).toBe('£4.50 each + 20 % VAT every month');
  expect(sayRate(each as never, { ...vat, mode: 'inclusive' })).toBe(
    '£4.50 each, 20 % VAT in it every month',
  );
});

test('what a customer reads of her own terms is what she is charged', () => {
  const tiers = [
    { to: 5, each: '9.50' },
    { to: null, each: '6.75' },
  ];
  const terms: Terms = {
    currency: 'GBP',
    starts: '2027-01-04',
    interval: 'P1M',
    lines: [{ name: 'Hive', quantity: 2, price: { scheme: 'each-tier', tiers } }],
  };
  expect(sayAgreed(terms, '2027-01-04', vat)).toBe('£19.00 + 20 % VAT = £22.80 every month for 2 × Hive');
  const changed: Terms = {
    ...terms,
    changes: [
      { date: '2027-03-04', lines: [{ name: 'Hive', quantity: 8, price: { scheme: 'each-tier', tiers } }] },
    ],
  };
  expect(sayAgreed(changed, '2027-03-03', vat)).toContain('for 2 × Hive');
  expect(sayAgreed(changed, '2027-03-04', vat)).toBe('£67.75 + 20 % VAT = £81.30 every month for 8 × Hive');
});

test('the sum that is said is the payment that is listed, for any price, quantity and tax', () => {
  const law = (mode: 'exclusive' | 'inclusive', percent: string): LawData => ({
    rates: [
      { taxId: '1', name: 'VAT', percent, mode, country: null, region: '', from: '2020-01-01', to: null },
    ],
    weekends: [],
    holidays: [],
    homeCountry: 'GB',
    said: 'net',
  });
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 999_999 }),
      fc.integer({ min: 1, max: 500 }),
      fc.constantFrom('exclusive' as const, 'inclusive' as const),
      fc.constantFrom('20', '7.7', '0', '19'),
      (pence, quantity, mode, percent) => {
        const terms: Terms = {
          currency: 'GBP',
          starts: '2027-01-04',
          interval: 'P1M',
          lines: [{ quantity, price: { scheme: 'each', amount: (pence / 100).toFixed(2) } }],
        };
        const facts = {
          ...{ terms, tax_id: '1', works_by: null, shift: null },
          ...{ country: null, region: '', tax_exempt: '' },
        };
        const read = new Law(law(mode, percent));
        const said = sayAgreed(terms, '2027-01-04', read.taxSaid(facts, toDay('2027-01-04')));
        const [first] = [...paymentsOf(read.compile(facts), { count: 1 })];
        const pounds = Number(first?.due ?? 0n) / 100;
        const listed = new Intl.NumberFormat('en-GB', { style: 'currency', currency: 'GBP' }).format(pounds);
        expect(said).toContain(`= ${listed} every month`);
      },
    ),
  );
});
