import { expect, test } from 'vitest';
import { listPayments } from '../listing/listPayments.ts';
import { requireTerms } from '../terms/check.ts';
import { compareRates, type OfferedRate } from './compareRates.ts';
import { composeTerms, type RateTerms } from './composeTerms.ts';
import { chooseExtras, type ExtraLine } from './extras.ts';

const flat = (amount: string) => [{ name: 'Row', price: { scheme: 'flat' as const, amount } }];
const rate = (id: string, terms: object): OfferedRate => ({
  id,
  name: id,
  terms: { currency: 'GBP', ...terms } as RateTerms,
});

test('rates are held against each other, and against buying once, in money and percent', () => {
  const compared = compareRates(
    [
      rate('monthly', {
        lines: flat('12.00'),
        interval: 'P1M',
        trial: { length: 'P14D' },
        setup: { amount: '25.00' },
      }),
      rate('yearly', { lines: flat('120.00'), interval: 'P1Y', on: { month: 4, day: 1 } }),
      rate('once', { once: [{ name: 'A month', amount: '15.00' }] }),
      rate('euro', { currency: 'EUR', lines: flat('13.00'), interval: 'P1M' }),
    ],
    '2027-01-20',
  );
  expect(compared.get('monthly')).toMatchObject({ year: 14400n, total: null });
  expect(compared.get('yearly')?.against).toEqual([
    { id: 'monthly', name: 'monthly', basis: 'a year', saves: 2400n, percent: '16.7' },
    // Each payment of a year against one purchase: that is dearer, and says so.
    { id: 'once', name: 'once', basis: 'each time, bought once', saves: -10500n, percent: '700' },
  ]);
  expect(compared.get('monthly')?.against[1]).toMatchObject({
    basis: 'each time, bought once',
    saves: 300n,
    percent: '20',
  });
  expect(compared.get('euro')?.against).toEqual([]);
});

test('instalments stand beside the price at once with the difference', () => {
  const compared = compareRates(
    [
      rate('at once', { once: [{ name: 'Kit', amount: '320.00' }] }),
      rate('seven', {
        lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '345.00' } }],
        interval: 'P1M',
        ends: { after: 7 },
      }),
    ],
    '2027-01-31',
  );
  expect(compared.get('at once')?.against).toEqual([
    { id: 'seven', name: 'seven', basis: 'in all', saves: 2500n, percent: '7.2' },
  ]);
  expect(compared.get('seven')).toMatchObject({
    total: 34500n,
    against: [{ saves: -2500n, percent: '7.8' }],
  });
});

test('amounts once fall on the day of enrolment, and what recurs begins later, in one rate', () => {
  const joined = {
    currency: 'GBP',
    lines: flat('12.00'),
    interval: 'P1M',
    once: [
      { name: 'Joining', amount: '30.00' },
      { name: 'Badge', amount: '5.00', date: '2027-03-15' },
    ],
  } as unknown as RateTerms;
  const listed = (choice: object) =>
    listPayments(requireTerms(composeTerms(joined, { starts: '2027-01-31', ...choice })), {
      count: 4,
    }).payments.map(({ from, total }) => `${from} ${total}`);
  expect(listed({ recurringStart: { after: 'P1M' } })).toEqual([
    '2027-01-31 30.00',
    '2027-02-28 12.00',
    '2027-03-15 5.00',
    '2027-03-28 12.00',
  ]);
  expect(listed({ recurringStart: { on: '2027-06-01' } })).toEqual([
    '2027-01-31 30.00',
    '2027-03-15 5.00',
    '2027-06-01 12.00',
    '2027-07-01 12.00',
  ]);
  // A date that has passed is the day of enrolment.
  expect(listed({ recurringStart: { on: '2026-06-01' } })[0]).toBe('2027-01-31 42.00');
});

test('prices are laid over each other, own amounts and extra lines follow, and the order stays', () => {
  const extra: ExtraLine = {
    ...{
      key: 'jars',
      name: 'Jars',
      currency: 'GBP',
      when: 'recurring',
      how: 'offered',
      min: 1,
      max: 9,
      byCustomer: true,
    },
    price: { scheme: 'pack', amount: '10.00', size: 6 },
  };
  const once: ExtraLine = {
    ...extra,
    key: 'veil',
    name: 'Veil',
    when: 'once',
    price: { scheme: 'each', amount: '8.00' },
  };
  const base = {
    currency: 'GBP',
    interval: 'P1M',
    lines: [
      {
        name: 'Gift',
        price: { scheme: 'chosen', amount: '10.00', min: '3.00' },
        intro: { payments: 1, amount: '1.00' },
      },
      { name: 'Post', price: { scheme: 'flat', amount: '2.00' } },
    ],
  } as unknown as RateTerms;
  const terms = composeTerms(base, {
    starts: '2027-01-04',
    amount: '15.00',
    prices: [[null, { scheme: 'flat', amount: '1.50' }], null, [null, { scheme: 'flat', amount: '1.25' }]],
    extras: [
      { extra, quantity: 7 },
      { extra: once, quantity: 2 },
    ],
  });
  const [first, second] = listPayments(requireTerms(terms), { count: 2 }).payments;
  expect(first?.lines).toEqual(['1.00', '1.25', '20.00', '16.00']);
  expect(second?.lines).toEqual(['15.00', '1.25', '20.00']);
  // Another price of the line itself takes its first price with it.
  const other = composeTerms(base, { starts: '2027-01-04', prices: [[{ scheme: 'flat', amount: '9.00' }]] });
  expect(listPayments(requireTerms(other), { count: 1 }).payments[0]?.lines).toEqual(['9.00', '2.00']);
});

test('an extra line is taken within its range, and a required one always', () => {
  const extra = (how: ExtraLine['how']): ExtraLine => ({
    ...{ key: how, name: how, currency: 'GBP', when: 'recurring', how, min: 2, max: 4, byCustomer: false },
    price: { scheme: 'flat', amount: '1.00' },
  });
  const all = [extra('required'), extra('preselected'), extra('offered')];
  const taken = (choices: Record<string, number>) => {
    const chosen = chooseExtras(all, choices);
    return 'says' in chosen
      ? chosen.says
      : chosen.taken.map(({ extra: { key }, quantity }) => `${quantity} ${key}`);
  };
  expect(taken({})).toEqual(['2 required', '2 preselected']);
  expect(taken({ preselected: 0, offered: 4 })).toEqual(['2 required', '4 offered']);
  expect(taken({ required: 0 })).toBe('required: take 2 to 4.');
  expect(taken({ offered: 5 })).toBe('offered: take 2 to 4, or none.');
  expect(taken({ gone: 1 })).toBe('This plan has no such extra line any more.');
});
