import fc from 'fast-check';
import { expect, test } from 'vitest';
import { POLICY_KINDS } from '../../../server/policies/messages.ts';
import {
  PAGE_METHODS,
  signUpPageSchema,
  type PageMethod,
  type SignUpPageForStaff,
} from '../../../server/signUp/messages.ts';
import { CONTACT_FIELDS } from '../../../server/settings/messages.ts';
import { faultsOfPage, keyOf, newPage, pageDraftOf, pageValueOf } from './pageDraft.ts';

const text = (most: number) => fc.string({ maxLength: most }).map((one) => one.trim());
const id = fc.integer({ min: 1, max: 99_999 }).map(String);
const texts = fc.record({
  title: text(80).filter((one) => one !== ''),
  text: text(200),
  after: text(200),
  labels: fc.constantFrom({}, { join: 'Go' }, { choose: 'Take', thanks: 'Hurray' }),
});
const asked = fc.constantFrom('setup', 'no', 'optional', 'required');
const orNone = (most: number, least = 1) => fc.option(fc.integer({ min: least, max: most }), { nil: null });
const anyPage = fc.record({
  key: fc.constantFrom('a', 'adopt-a-row', '2027'),
  rates: fc.uniqueArray(id, { minLength: 1, maxLength: 5 }),
  texts: fc.record({ de: texts, en: texts, fr: texts }, { requiredKeys: ['de'] }),
  pictures: fc.uniqueArray(id, { maxLength: 3 }),
  look: fc.record({
    header: fc.constantFrom('band', 'plain'),
    mainColour: fc.constantFrom('', '#0e6655'),
    accentColour: fc.constantFrom('', '#ffffff'),
  }),
  ask: fc.record(Object.fromEntries(Object.keys(CONTACT_FIELDS).map((name) => [name, asked]))),
  fields: fc.constantFrom({}, { 'Member since': 'required' }, { 'Shoe (EU)': 'no' }),
  questions: fc.constantFrom(
    [],
    [{ label: 'Why?', kind: 'choice', choices: ['A, B', 'C'], required: true, hint: 'One' }],
    [
      { label: 'When', kind: 'date' },
      { label: 'How', kind: 'long text' },
    ],
  ),
  quantityMost: orNone(1_000_000, 2),
  codes: fc.boolean(),
  startWithin: orNone(92),
  billingDay: fc.boolean(),
  methods: fc.uniqueArray(fc.constantFrom(...(Object.keys(PAGE_METHODS) as PageMethod[])), { minLength: 1 }),
  policies: fc.uniqueArray(fc.constantFrom(...POLICY_KINDS)),
  until: fc.constantFrom(null, '2027-03-01'),
  places: orNone(1_000_000),
  documents: fc.constantFrom([], [{ upload: '4', name: 'Rules' }]),
  redirect: fc.constantFrom('', 'https://fenmarsh.example/thanks'),
});

test('whatever page is stored, its form holds all of it, and storing the form unchanged changes nothing', () => {
  fc.assert(
    fc.property(anyPage, (page) => {
      const value = signUpPageSchema.parse({ ...page, firstRate: page.rates[0], language: 'de' });
      const draft = pageDraftOf({
        value,
        picturesAt: value.pictures.map((one) => `/pictures/${one}`),
        documentsAt: value.documents.map(() => '/documents/1'),
      } as unknown as SignUpPageForStaff);
      expect(faultsOfPage(draft)).toEqual(new Map());
      expect(signUpPageSchema.parse(pageValueOf(draft))).toEqual(value);
    }),
  );
});

test('a new page begins with what it is about, and names what is wrong beside its field', () => {
  const page = newPage(['7', '8'], 'Übers Moor: 2 Reihen!');
  expect(page).toMatchObject({
    key: 'u-bers-moor-2-reihen',
    firstRate: '7',
    texts: { en: { title: 'Übers Moor: 2 Reihen!' } },
  });
  expect(faultsOfPage(page)).toEqual(new Map());
  const wrong: [object, string][] = [
    [{ key: 'Not good' }, '/key'],
    [{ key: 'assets' }, '/key'],
    [{ rates: [] }, '/rates'],
    [{ quantityMost: '1' }, '/quantityMost'],
    [{ quantityMost: 'many' }, '/quantityMost'],
    [{ startWithin: '93' }, '/startWithin'],
    [{ places: '0' }, '/places'],
    [{ methods: [] }, '/methods'],
    [{ redirect: 'fenmarsh' }, '/redirect'],
    [{ look: { ...page.look, mainColour: 'greenish' } }, '/look/mainColour'],
    [
      { questions: [{ label: 'Size', kind: 'choice', choices: 'S', required: false, hint: '' }] },
      '/questions/0/choices',
    ],
  ];
  for (const [to, field] of wrong)
    expect([...faultsOfPage({ ...page, ...to }).keys()], JSON.stringify(to)).toEqual([field]);
  expect(keyOf('  ')).toBe('');
});
