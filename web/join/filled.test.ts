import { expect, test } from 'vitest';
import type { OfferedPlanView, OfferedRateView, PublicPage, Quote } from '../../server/signUp/messages.ts';
import {
  amountOf,
  chosenFor,
  choiceOf,
  emptyFor,
  fieldAt,
  isAllowed,
  messageOf,
  quantityOf,
  waysOf,
} from './filled.ts';

const rate = (facts: Partial<OfferedRateView>): OfferedRateView => ({
  ...{ id: '1', planId: '1', name: 'Monthly', currency: 'GBP', each: '1200', chosen: null, payments: null },
  digits: 2,
  ...{ interval: { count: 1, unit: 'M' }, instalments: false, trial: null, counted: false, saves: null },
  ...{ methods: ['card', 'invoice'], methodLater: false },
  ...facts,
});
const extra = { currency: 'GBP', when: 'recurring', min: 1, max: 3, each: null } as const;
const plan: OfferedPlanView = {
  ...{ id: '1', name: 'Rows', text: '', picture: null, isGoods: false, documents: [] },
  asks: [
    { label: 'Size (EU)', kind: 'choice', choices: ['S', 'L'], required: true, hint: '' },
    { label: 'a/b~c', kind: 'text', choices: [], required: false, hint: '' },
  ],
  variants: [
    { id: '7', name: 'Half', says: '', rates: ['2'] },
    { id: '8', name: 'Whole', says: '', rates: [] },
  ],
  extras: [
    { key: 'water', name: 'Water', how: 'offered', ...extra },
    { key: 'shed', name: 'Shed', how: 'preselected', ...extra },
    { key: 'eau', name: 'Eau', how: 'required', ...extra, currency: 'EUR' },
  ],
};
const page = (facts: Partial<PublicPage> = {}): PublicPage => ({
  digits: { GBP: 2, EUR: 2 },
  ...{ key: 'rows', version: 3, closed: null, business: 'Fenmarsh Hives', writeTo: '', today: '2027-01-04' },
  ...{
    locale: 'en-GB',
    language: 'en',
    languages: ['en'],
    title: 'Rows',
    text: '',
    labels: {},
    pictures: [],
  },
  look: { header: 'plain', main: '', onMain: '', heading: '', accent: '', logo: null, icon: null },
  ...{ plans: [plan], rates: [rate({}), rate({ id: '2', currency: 'EUR' })], firstRate: '1' },
  ask: { phone: 'no', organisation: 'no', address: 'no', country: 'no', language: 'no', tax_number: 'no' },
  fields: [{ label: 'Member since', required: false }],
  questions: [{ label: 'Why?', kind: 'text', choices: [], required: false, hint: '' }],
  ...{ quantityMost: null, codes: true, startWithin: null, billingDay: false, placesLeft: null, until: null },
  ...{ serves: [], shipsTo: [], country: 'GB', policies: [], practice: true, rehearsal: false },
  ...facts,
});

test('what is chosen is sent with what goes with the rate alone: its variant, its extra lines, what its plan asks', () => {
  const here = page();
  const empty = emptyFor(here);
  expect(empty).toMatchObject({
    rateId: '1',
    variantId: '8',
    pays: 'card',
    extras: { water: '0', shed: '1' },
  });
  const filled = {
    ...empty,
    answers: ['L', ''],
    codes: ['SPRING'],
    starts: '2027-01-09',
    billingDay: 'last',
  };
  expect(choiceOf(here, filled)).toEqual({
    ...{ rateId: '1', variantId: '8', extras: { water: 0, shed: 1 }, answers: { 'Size (EU)': 'L' } },
    ...{ codes: ['SPRING'], starts: '2027-01-09', billingDay: 'last' },
  });
  const euro = { ...filled, rateId: '2', ...chosenFor(plan, here.rates[1], 'en-GB') };
  expect(choiceOf(here, euro)).toMatchObject({
    rateId: '2',
    variantId: '7',
    extras: { eau: 1 },
    answers: {},
  });
});

test('amounts and quantities are read as the language writes them, and held to what is allowed', () => {
  const chosen = rate({ chosen: { suggested: '15.00', min: '3.00', max: '1000.00' } });
  const german = page({ locale: 'de-DE', rates: [chosen], quantityMost: 1200 });
  const filled = emptyFor(german);
  expect(filled.amount).toBe('15,00');
  const read = (amount: string) => amountOf(german, { ...filled, amount }, chosen);
  expect([read('22,5'), read('1.000'), read('22.50'), read('zwölf')]).toEqual(['22.5', '1000', null, null]);
  expect(['2.99', '3.00', '1000.00', '1000.01'].map((one) => isAllowed(one, chosen))).toEqual([
    false,
    true,
    true,
    false,
  ]);
  const many = (quantity: string) => quantityOf(german, { ...filled, quantity });
  expect([many('1.200'), many('1201'), many('0'), many('')]).toEqual([1200, null, null, null]);
});

test('an address to ship to is sent only for goods, and a country only where it is asked or needed', () => {
  const quote = { dues: [{ dueOn: '2027-01-04', due: '1200' }] } as unknown as Quote;
  const of = { visit: 'v', quote, cardToken: 'token' };
  const shipping = { name: 'Bo', address: '1 Quay', postcode: '', region: '', country: 'IE' };
  const filled = {
    ...emptyFor(page()),
    elsewhere: true,
    shipping,
    agreed: { '5': true, '6': true, '9': false },
  };
  const policies = [
    { id: '5', kind: 'refund', version: 1, text: '' },
    { id: '9', kind: 'cancellation', version: 1, text: '' },
  ];
  const service = messageOf(page({ policies }), filled, of);
  expect(service.customer).toMatchObject({ country: '', shipping: null, fields: {} });
  // What was ticked of an earlier version is agreed to no more.
  expect(service.agreed).toEqual(['5']);
  const goods = messageOf(page({ plans: [{ ...plan, isGoods: true }] }), filled, of);
  expect(goods.customer).toMatchObject({ country: 'GB', shipping });
  expect(goods.shown).toEqual(quote.dues);
});

test('a refusal of the server stands beside the field it is of, whatever labels are made of', () => {
  const here = page();
  const filled = emptyFor(here);
  const places: [string, string | null][] = [
    ['/choice/answers/Size (EU)', 'answers.0'],
    ['/choice/answers/a~1b~0c', 'answers.1'],
    ['/choice/answers/gone', null],
    ['/questions/Why?', 'questions.0'],
    ['/customer/fields/Member since', 'customer.fields.0'],
    ['/customer/email', 'customer.email'],
    ['/choice/codes/1', 'code'],
    ['/choice/extras/water', 'extras.water'],
    ['/choice/place/country', 'customer.country'],
    ['/cardToken', 'card.number'],
    ['/cardToken/expires', 'card.expires'],
    ['/card/number', 'card.number'],
    ['/bank/holder', 'bank.holder'],
    ['/pays', 'pays'],
    ['/shown', null],
  ];
  for (const [pointer, field] of places) expect(fieldAt(here, filled, pointer), pointer).toBe(field);
  expect(fieldAt(here, { ...filled, elsewhere: true }, '/choice/place/country')).toBe('shipping.country');
});

test('a trial that may begin without a method offers to ask for one later, as the last of the ways', () => {
  expect(waysOf(rate({ methodLater: true }))).toEqual(['card', 'invoice', 'later']);
  expect([waysOf(rate({})), waysOf(undefined)]).toEqual([['card', 'invoice'], []]);
});
