import { expect, test } from 'vitest';
import { requireTerms } from '../../../../core/terms/check.ts';
import { rateSchema } from '../../../../server/plans/messages.ts';
import { letterOf } from './letterOf.ts';
import { laidOver, withoutSecrets } from '../../../parts/keptDraft.ts';
import { draftOf, newEnrolment } from './enrolDraft.ts';
import { beginRate, faultsOfNewRate, NEW_PLAN, newRate, sayNewRate, sentRate } from './newRate.ts';
import { OF_ITS_OWN } from './ofItsOwn.ts';
import { payingOf } from './paying.ts';

const lines = [
  { name: 'Plot', amount: '64.00' },
  { name: 'Water', amount: '6.5' },
];

test.each([
  ['nothing yet', {}, 'GBP', ['planName', 'name', 'lines/0/name', 'lines/0/amount']],
  ['a plan there is', { planId: '7', name: 'Monthly', lines }, 'GBP', []],
  ['never', { planId: '7', name: 'Monthly', lines, every: '0' }, 'GBP', ['every']],
  ['half a month', { planId: '7', name: 'Monthly', lines, every: '0.5' }, 'GBP', ['every']],
  ['parts of a yen', { planId: '7', name: 'Monthly', lines }, 'JPY', ['lines/0/amount', 'lines/1/amount']],
  ['thousandths of a dinar', { planId: '7', name: 'M', lines: [{ name: 'x', amount: '1.234' }] }, 'KWD', []],
  [
    'words for a price',
    { planId: '7', name: 'M', lines: [{ name: 'x', amount: 'ten' }] },
    'GBP',
    ['lines/0/amount'],
  ],
  ['blanks for names', { planId: NEW_PLAN, planName: ' ', name: ' ', lines }, 'GBP', ['planName', 'name']],
])('a rate typed in an enrolment: %s', (_, typed, currency, faults) => {
  expect([...faultsOfNewRate(newRate(typed), currency).keys()]).toEqual(faults);
});

test.each(['D', 'W', 'M', 'Y'] as const)(
  'what is without faults is terms that the server takes, counted in %s',
  (unit) => {
    const draft = newRate({ planId: '7', name: ' As agreed ', every: '2', unit, lines });
    expect(faultsOfNewRate(draft, 'GBP').size).toBe(0);
    const sent = rateSchema.parse(sentRate(draft, 'GBP'));
    expect(sent).toMatchObject({ name: 'As agreed', terms: { interval: `P2${unit}` } });
    const terms = requireTerms({ ...sent.terms, starts: '2027-01-04' } as never);
    expect('lines' in terms && terms.lines.map(({ name }) => name)).toEqual(['Plot', 'Water']);
  },
);

test('one that is charged once is a sale, whatever stands in the fields of its rhythm', () => {
  const draft = newRate({ planId: '7', name: 'Repair', recurs: false, every: 'x', lines });
  expect(faultsOfNewRate(draft, 'GBP').size).toBe(0);
  const sent = rateSchema.parse(sentRate(draft, 'GBP'));
  expect(sent.terms).toEqual({ currency: 'GBP', once: lines });
  const once = lines.map((line) => ({ ...line, date: '2027-01-04' }));
  expect(requireTerms({ ...sent.terms, once, starts: '2027-01-04' } as never)).not.toHaveProperty('lines');
});

test.each([
  ['mail', 'asked'],
  ['link', 'asked'],
  ['invoice', 'invoice'],
  ['typed', 'given'],
  ['bank', 'given'],
] as const)('the first letter of what is paid by %s', (pays, says) => {
  const rate = { options: { methods: ['card', 'bank debit', 'invoice'] }, terms: {} } as never;
  const draft = { ...newEnrolment('2027-01-04', null, '7'), who: 'new' as const, name: ' Ada ', pays };
  const paying = payingOf(rate, { pays, card: draft.card, hasCard: false, bank: { url: '', publicKey: '' } });
  const shown = [
    { dueOn: '2027-01-04', due: '0' },
    { dueOn: '2027-02-04', due: '1200' },
  ];
  expect(letterOf(draft, { paying, shown, currency: 'GBP' })).toMatchObject({
    ...{ pays: says, name: 'Ada', starts: '2027-01-04' },
    first: { dueOn: '2027-02-04', due: '1200', currency: 'GBP' },
  });
});

test.each([
  // What the rate takes, what is on file, whether there is an account for debits: the ways, and by which rule days move.
  [['card'], null, true, ['typed', 'mail', 'link'], 'card'],
  [['bank debit'], null, true, ['bank', 'mail', 'link'], 'bank debit'],
  [['bank debit'], null, false, [], 'card'],
  [['bank debit'], 'card', true, ['bank'], 'bank debit'],
  [['card'], 'bank account', true, ['typed'], 'card'],
  [['bank debit', 'invoice'], 'bank account', true, ['file', 'bank', 'invoice'], 'bank debit'],
  [['card', 'bank debit'], 'card', true, ['file', 'typed', 'bank'], 'card'],
  [['invoice'], 'card', true, ['invoice'], 'by invoice'],
] as const)(
  'a rate paid by %j, with %s on file, where debits are taken: %s',
  (methods, file, takes, ways, paidAs) => {
    const paying = payingOf({ options: { methods }, terms: {} } as never, {
      ...{ pays: null, card: newEnrolment('2027-01-04', null).card, hasCard: file !== null },
      ...{ bank: takes ? { url: '', publicKey: '' } : null, fileIsBank: file === 'bank account' },
    });
    expect([paying.ways, paying.paidAs]).toEqual([ways, paidAs]);
  },
);

test('a rate begins with the plan that is asked for by its name, made where there is none; archived ones are passed over', () => {
  const plan = (id: string, name: string, archivedOn: string | null = null) => ({ id, name, archivedOn });
  const known = [plan('1', 'Hives'), plan('2', OF_ITS_OWN.planName)];
  expect(beginRate(known)).toMatchObject({ planId: '1', planName: '', recurs: true });
  expect(beginRate(known, OF_ITS_OWN)).toMatchObject({ planId: '2', recurs: false, once: true });
  const archived = [plan('2', OF_ITS_OWN.planName, '2027-01-01')];
  expect(beginRate(archived, OF_ITS_OWN)).toMatchObject({ planId: NEW_PLAN, planName: 'Single charges' });
  expect(sayNewRate(newRate({ name: 'Once', lines }))).toBe('Plot, Water');
  expect(sayNewRate(newRate({ name: 'Once' }))).toBe('Once');
});

test('a stored draft comes back as it was typed, with whoever has the customer’s records now, and without a card', () => {
  const typed = {
    ...newEnrolment('2027-01-04', '7', '', newRate({ lines })),
    ...{ starts: '2027-02-01', staffNote: 'Call first', cardToken: 'read-on-the-reader' },
  };
  const value = withoutSecrets(typed) as Record<string, unknown>;
  expect(JSON.stringify(value)).not.toContain('read-on-the-reader');
  const later = newEnrolment('2027-01-20', null);
  const opened = laidOver(later, draftOf({ value, customerId: '9' }));
  expect(opened).toMatchObject({ starts: '2027-02-01', customerId: '9', making: { lines }, cardToken: null });
  expect(opened.card).toEqual(later.card);
  // Somebody new has no records yet.
  const fresh = { ...value, who: 'new', customerId: '' };
  expect(draftOf({ value: fresh, customerId: '9' }).customerId).toBe('');
  expect(laidOver(later, draftOf({ value: {}, customerId: null }))).toEqual(later);
});
