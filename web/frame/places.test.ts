import { expect, test } from 'vitest';
import { placesFound } from './places.ts';

const paths = (text: string, role: 'owner' | 'biller' | 'reader' = 'owner') =>
  placesFound(text, role).map(({ path }) => path);

test.each([
  ['retry', '/ladders'],
  ['statement text', '/setup/business'],
  ['pause', '/subscriptions?state=paused'],
  ['VAT', '/setup/taxes'],
  ['new plan', '/plans/new'],
  ['bank hol', '/setup/calendar'],
])('%s leads to %s first or among the first', (text, path) => {
  expect(paths(text)).toContain(path);
});

test('nobody is led to where they may not come', () => {
  expect(paths('audit')).toEqual(['/setup/audit']);
  expect(paths('audit', 'biller')).toEqual([]);
  expect(paths('retry', 'reader')).toEqual(['/ladders', '/cases?state=open']);
});

test('one letter, signs and words of nothing lead nowhere', () => {
  for (const text of ['', ' ', 'a', '%', '***', 'zebra crossing', 'retry zebra'])
    expect(paths(text), text).toEqual([]);
});
