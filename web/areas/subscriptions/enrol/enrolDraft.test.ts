import { NO_CARD } from '../../../parts/card.ts';
import { expect, test } from 'vitest';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import {
  fieldOf,
  messageOf,
  missingOf,
  newEnrolment,
  type EnrolDraft,
  type EnrolFacts,
} from './enrolDraft.ts';
import { payingOf } from './paying.ts';
import { choicesFor, rateChoices } from './rateChoices.ts';
import { typedPerson } from './typedPerson.ts';

const today = '2026-11-23';
const rate = {
  id: '7',
  terms: { currency: 'GBP', interval: 'P1M', lines: [{ price: { scheme: 'flat', amount: '10.00' } }] },
  options: { methods: ['card'], withoutMethod: 'needed' },
} as unknown as RateView;
const form = {
  ask: {
    phone: 'required',
    organisation: 'no',
    address: 'optional',
    country: 'no',
    language: 'no',
    tax_number: 'no',
  },
  invoiceFields: [{ label: 'Purchase order', required: true }],
} as unknown as NonNullable<EnrolFacts['form']>;

const factsOf = (draft: EnrolDraft, more: Partial<EnrolFacts> = {}): EnrolFacts => ({
  ...{
    asksHolder: false,
    others: [],
    hasAddress: false,
    businessDate: today,
    plan: undefined,
    rate,
    computed: null,
    variantId: '',
    form,
  },
  ...{ codeSays: undefined, sameAddress: undefined, shown: null },
  paying: payingOf(rate, { pays: draft.pays, card: draft.card, hasCard: false }),
  ...more,
});
const full: EnrolDraft = {
  ...newEnrolment(today, null),
  ...{ who: 'new', rateId: '7', name: 'Ada Fenn', email: 'ada@post.example', contact: { phone: '1' } },
  ...{
    invoiceFields: { 'Purchase order': 'PO 1' },
    card: { ...NO_CARD, number: '9171 0000 0000 0012', expires: '11/30' },
  },
};
const missing = (to: Partial<EnrolDraft>, more: Partial<EnrolFacts> = {}) => {
  const draft = { ...full, ...to };
  return missingOf(draft, factsOf(draft, more)).map(({ field }) => field);
};

test('nothing is missing where nothing is, and each thing left out is named with its own field', () => {
  expect(missing({})).toEqual([]);
  expect(missing({ name: ' ' })).toEqual(['customer/name']);
  expect(missing({ email: 'ada' })).toEqual(['customer/email']);
  expect(missing({ contact: {} })).toEqual(['customer/phone']);
  expect(missing({ invoiceFields: {} })).toEqual(['invoiceFields/Purchase order']);
  expect(missing({ starts: '2026-11-22' })).toEqual(['starts']);
  expect(missing({ starts: 'foo' })).toEqual(['starts']);
  expect(missing({ lastDay: '2026-11-22' })).toEqual(['lastDay']);
  expect(missing({ who: 'existing' })).toEqual(['customer']);
  expect(missing({}, { sameAddress: 'Ada Fenn' })).toEqual(['customer/email']);
  expect(missing({ another: true }, { sameAddress: 'Ada Fenn' })).toEqual([]);
  expect(missing({}, { codeSays: 'This code is not known.' })).toEqual(['codes/0']);
});

test('a card is missing, is no card, or has expired: said before anything is sent', () => {
  expect(missing({ card: { ...NO_CARD, number: '', expires: '' } })).toEqual(['number', 'expires']);
  expect(missing({ card: { ...NO_CARD, number: '9171000000000012', expires: '10/26' } })).toEqual([
    'expires',
  ]);
  expect(
    missing({ card: { ...NO_CARD, number: '9171000000000012', expires: '11/26' } }),
    'good through its month',
  ).toEqual([]);
  expect(missing({ card: { ...NO_CARD, number: '9171000000000012', expires: '13/30' } })).toEqual([
    'expires',
  ]);
});

test('what the server refuses stands beside the field that it is about', () => {
  expect(fieldOf('/cardToken/expires')).toBe('expires');
  expect(fieldOf('/card/number')).toBe('number');
  expect(fieldOf('/customer/email')).toBe('customer/email');
  expect(fieldOf('/answers/Where?')).toBe('answer:Where?');
  expect(messageOf(full, factsOf(full))).toMatchObject({ customer: { name: 'Ada Fenn' }, pays: 'card' });
  expect(messageOf({ ...full, lastDay: '2027-06-30' }, factsOf(full))).toMatchObject({
    lastDay: '2027-06-30',
  });
});

test('the ways to pay are those that the rate and the customer leave, the usual first', () => {
  const card = { ...NO_CARD, number: '', expires: '' };
  const both = { ...rate, options: { ...rate.options, methods: ['card', 'invoice'] } } as RateView;
  const byInvoice = { ...rate, options: { ...rate.options, methods: ['invoice'] } } as RateView;
  expect(payingOf(undefined, { pays: null, card, hasCard: false })).toMatchObject({
    ways: ['typed', 'mail', 'link'],
    needsCard: true,
  });
  expect(payingOf(both, { pays: null, card, hasCard: true })).toMatchObject({
    ...{ way: 'file', ways: ['file', 'typed', 'invoice'], by: 'card', takesCard: false },
  });
  expect(payingOf(both, { pays: 'mail', card, hasCard: false })).toMatchObject({
    by: 'mail',
    takesCard: false,
  });
  // What was chosen before for another rate is given up where this one does not allow it.
  expect(payingOf(byInvoice, { pays: 'typed', card, hasCard: true })).toMatchObject({
    ...{ way: 'invoice', ways: ['invoice'], by: 'invoice', needsCard: false },
  });
});

test('somebody new is read out of one line, either part first or alone', () => {
  const ada = { name: 'Ada Fenn', email: 'ada@post.example' };
  expect(typedPerson('Ada Fenn ada@post.example')).toEqual(ada);
  expect(typedPerson('ada@post.example,  Ada   Fenn')).toEqual(ada);
  expect(typedPerson('"Fenn, Ada" <ada@post.example>')).toEqual({ ...ada, name: 'Fenn Ada' });
  expect(typedPerson('Ada Fenn')).toEqual({ name: 'Ada Fenn', email: '' });
  expect(typedPerson('ada@post.example')).toEqual({ name: '', email: 'ada@post.example' });
});

test('rates are found by any words of theirs, say what they save, and archived ones are not offered', () => {
  const made = (
    id: string,
    name: string,
    interval: string,
    amount: string,
    archivedOn: string | null = null,
  ) =>
    ({
      id,
      name,
      says: `${amount} every ${interval}`,
      archivedOn,
      terms: terms(interval, amount),
    }) as unknown as RateView;
  const terms = (interval: string, amount: string) => ({
    currency: 'GBP',
    interval,
    lines: [{ name: 'Row', price: { scheme: 'flat', amount } }],
  });
  const plan = (name: string, rates: RateView[]) => ({ name, rates }) as unknown as PlanView;
  const all = rateChoices(
    [
      plan('Hive Watch', [made('1', 'Monthly', 'P1M', '10.00'), made('2', 'Yearly', 'P1Y', '96.00')]),
      plan('Row of hives', [
        made('3', 'Monthly', 'P1M', '5.00'),
        made('4', 'Old', 'P1M', '4.00', '2026-01-01'),
      ]),
    ],
    today,
  );
  expect(all.map(({ value }) => value)).toEqual(['1', '2', '3']);
  expect(all[1]?.note).toBe('£24.00 less a year');
  const found = (typed: string) => choicesFor(all, typed).map(({ value }) => value);
  expect(found('')).toEqual(['1', '2', '3']);
  expect(found('hive mon')).toEqual(['1', '3']);
  expect(found('yearly')).toEqual(['2']);
  expect(found('5.00')).toEqual(['3']);
  expect(found('of')).toEqual(['3']);
  expect(found('gone')).toEqual([]);
});
