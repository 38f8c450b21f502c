import { expect, test } from 'vitest';
import { previewTerms } from './previewTerms.ts';

const line = { name: 'Plot', price: { scheme: 'flat', amount: '64.00' } };
const terms = { currency: 'GBP', starts: '2027-01-04', interval: 'P1M', terms: 'P21D', lines: [line] };
const issued = (issueBefore: number, more: object = {}) => {
  const preview = previewTerms({ ...terms, ...more }, undefined, { count: 3, issueBefore });
  if (!('charges' in preview)) throw new Error(JSON.stringify(preview.faults));
  return preview.charges.map(({ date, issuedOn }) => [date, issuedOn]);
};

test('a charge says when it is invoiced: on the day of its period, or so many days before it', () => {
  const due = ['2027-01-25', '2027-02-25', '2027-03-25'];
  expect(issued(0)).toEqual(due.map((day) => [day, day.replace('-25', '-04')]));
  // The first is invoiced when it starts, whatever is asked for.
  expect(issued(14)).toEqual([
    [due[0], '2027-01-04'],
    [due[1], '2027-01-21'],
    [due[2], '2027-02-18'],
  ]);
});

test('what is due when it is invoiced says no other day', () => {
  expect(issued(0, { terms: undefined })).toEqual([
    ['2027-01-04', undefined],
    ['2027-02-04', undefined],
    ['2027-03-04', undefined],
  ]);
  expect(issued(3, { terms: undefined })[1]).toEqual(['2027-02-04', '2027-02-01']);
});
