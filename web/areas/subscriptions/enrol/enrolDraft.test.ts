import { expect, test } from 'vitest';
import type { RateView } from '../../../../server/plans/messages.ts';
import {
  fieldOf,
  messageOf,
  missingOf,
  newEnrolment,
  type EnrolDraft,
  type EnrolFacts,
} from './enrolDraft.ts';
import { payingOf } from './paying.ts';

const today = '2026-11-23';
const rate = {
  id: '7',
  terms: { currency: 'GBP', interval: 'P1M', lines: [{ price: { scheme: 'flat', amount: '10.00' } }] },
  options: { methods: ['card'], withoutMethod: 'needed' },
} as unknown as RateView;
const form = {
  ask: { phone: 'required', organisation: 'no', address: 'optional', country: 'no', tax_number: 'no' },
  invoiceFields: [{ label: 'Purchase order', required: true }],
} as unknown as NonNullable<EnrolFacts['form']>;

const factsOf = (draft: EnrolDraft, more: Partial<EnrolFacts> = {}): EnrolFacts => ({
  ...{ businessDate: today, plan: undefined, rate, computed: null, variantId: '', form, codeSays: undefined },
  paying: payingOf(rate, { pays: draft.pays, card: draft.card, hasCard: false }),
  ...more,
});
const full: EnrolDraft = {
  ...newEnrolment(today, null),
  ...{ rateId: '7', name: 'Ada Fenn', email: 'ada@post.example', contact: { phone: '1' } },
  ...{
    invoiceFields: { 'Purchase order': 'PO 1' },
    card: { number: '9171 0000 0000 0012', expires: '11/30' },
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
  expect(missing({ who: 'existing' })).toEqual(['customer', 'invoiceFields/Purchase order'].slice(0, 1));
  expect(missing({}, { codeSays: 'This code is not known.' })).toEqual(['codes/0']);
});

test('a card is missing, is no card, or has expired: said before anything is sent', () => {
  expect(missing({ card: { number: '', expires: '' } })).toEqual(['number', 'expires']);
  expect(missing({ card: { number: '9171000000000012', expires: '10/26' } })).toEqual(['expires']);
  expect(
    missing({ card: { number: '9171000000000012', expires: '11/26' } }),
    'good through its month',
  ).toEqual([]);
  expect(missing({ card: { number: '9171000000000012', expires: '13/30' } })).toEqual(['expires']);
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
