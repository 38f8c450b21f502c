import { expect, test } from 'vitest';
import { faultsOfMapping, guessMapping, mapped, mappingSchema } from './mappingMessages.ts';

test('columns are guessed by what they are called, each taken once, and nothing that is not called so', () => {
  expect(
    guessMapping([
      'Member No.',
      'Full name',
      'E-Mail Address',
      'Membership',
      'Interval',
      'Next Payment',
      'Qty',
      'Notes',
    ]),
  ).toEqual({
    reference: { column: 'Member No.' },
    name: { column: 'Full name' },
    email: { column: 'E-Mail Address' },
    plan: { column: 'Membership' },
    rate: { column: 'Interval' },
    starts: { column: 'Next Payment' },
    quantity: { column: 'Qty' },
  });
  // Of two that may be it, the likelier; the other one stays free for what it is called too.
  expect(guessMapping(['Customer', 'Name', 'id', 'reference'])).toEqual({
    reference: { column: 'reference' },
    name: { column: 'Name' },
  });
  expect(guessMapping(['Café', '', '電話', 'password'])).toEqual({});
  // Our own columns are understood as what they are.
  const own = [
    'reference',
    'name',
    'email',
    'plan',
    'rate',
    'starts',
    'quantity',
    'amount',
    'currency',
    'group',
    'variant',
    'phone',
    'organisation',
    'address',
    'postcode',
    'country',
    'region',
    'language',
    'tax_number',
    'tax_exempt',
    'card_token',
  ];
  expect(Object.entries(guessMapping(own)).map(([field, from]) => [field, from])).toEqual(
    own.map((field) => [field, { column: field }]),
  );
});

test('a mapping names what is missing, what is not in the file, and what is taken twice', () => {
  const header = ['Name', 'Mail'];
  const faults = (mapping: Parameters<typeof faultsOfMapping>[0]) =>
    faultsOfMapping(mapping, header).map(({ field }) => field);
  expect(faults({})).toEqual(['name', 'email']);
  expect(faults({ name: { column: 'Name' }, email: { column: 'Mail' } })).toEqual([]);
  expect(faults({ name: { column: 'Name' }, email: { column: 'Name' } })).toEqual(['email']);
  expect(
    faultsOfMapping({ name: { column: 'A' }, email: { column: 'B' } }, ['A', 'B', 'A']).map(
      ({ says }) => says,
    ),
  ).toEqual(['More than one column of the file is called so: rename one there.']);
  expect(faults({ name: { column: 'Name' }, email: { column: 'Mail' }, plan: { column: 'Gone' } })).toEqual([
    'plan',
  ]);
  expect(faults({ name: { value: 'Ada' }, email: { column: 'Mail' }, plan: { value: 'Row' } })).toEqual([
    'name',
  ]);
});

test('a row is made of its columns and of what is the same for everybody; the address stands for a number that is not there', () => {
  const record = { Name: 'Ada', Mail: ' ADA@post.example ', No: '' };
  const mapping = { name: { column: 'Name' }, email: { column: 'Mail' }, plan: { value: 'Row' } };
  expect(mapped(record, mapping)).toEqual({
    ...{ name: 'Ada', email: ' ADA@post.example ', plan: 'Row', reference: 'ada@post.example' },
  });
  expect(mapped({ ...record, No: '7' }, { ...mapping, reference: { column: 'No' } })).toMatchObject({
    reference: '7',
  });
});

test('the business’s own fields are mapped as they are called, and not where they are gone', () => {
  const header = ['Name', 'Mail', 'Member Since', 'field:Hat size'];
  const mapping = guessMapping(header, ['Member since', 'Hat size', 'Shoe size']);
  expect(mapping).toMatchObject({
    ...{ 'field:Member since': { column: 'Member Since' }, 'field:Hat size': { column: 'field:Hat size' } },
  });
  expect(mapping).not.toHaveProperty('field:Shoe size');
  expect(mappingSchema.safeParse(mapping).success).toBe(true);
  expect(mappingSchema.safeParse({ password: { value: 'x' } }).success).toBe(false);
  const record = { Name: 'Ada', Mail: 'ada@post.example', 'Member Since': '2019', 'field:Hat size': '' };
  expect(mapped(record, mapping)).toMatchObject({ 'field:Member since': '2019' });
  const faults = faultsOfMapping(mapping, header, ['Member since']);
  expect(faults).toEqual([{ field: 'field:Hat size', says: 'Customers have no such field any more.' }]);
});
