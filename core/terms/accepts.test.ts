import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { z } from 'zod';
import { acceptsOf } from './accepts.ts';
import { checkTerms } from './check.ts';
import { oneOffTermsSchema, recurringTermsSchema, termsSchema } from './schema.ts';

const documents = ['hand', 'cases'].flatMap((file) =>
  readFileSync(new URL(`../vectors/${file}.jsonl`, import.meta.url), 'utf8')
    .trim()
    .split('\n')
    .map((row) => (JSON.parse(row) as { terms: Record<string, unknown> }).terms),
);
const strange = fc.constantFrom<unknown>(
  ...[
    null,
    -1,
    0,
    1.5,
    2 ** 53,
    NaN,
    '',
    '1e9',
    '-5',
    '4.5',
    '0.0000000000001',
    '9'.repeat(30),
    '2027-02-30',
  ],
  ...[
    '0000-01-01',
    'P0D',
    'P1M',
    [],
    {},
    [null],
    'last',
    'mon',
    true,
    undefined,
    new Date(0),
    Object.create(null),
  ],
);

/** A copy with something strange somewhere in it, or with a member that it had left out. */
function spoilt(document: unknown, where: number, value: unknown): unknown {
  const places: (() => void)[] = [];
  const copy = structuredClone(document);
  const visit = (at: unknown) => {
    if (at === null || typeof at !== 'object') return;
    for (const key of Object.keys(at)) {
      places.push(
        () => Object.assign(at, { [key]: value }),
        () => Reflect.deleteProperty(at, key),
        () => Object.assign(at, { [`${key}s`]: value }),
      );
      visit((at as Record<string, unknown>)[key]);
    }
  };
  visit(copy);
  places[where % places.length]?.();
  return copy;
}

test('what is quickly found good is what the schema finds good, and no more, however a document is spoilt', () => {
  const pairs = [recurringTermsSchema, oneOffTermsSchema, termsSchema].map(
    (schema) => [acceptsOf(schema), schema] as const,
  );
  let [good, bad] = [0, 0];
  fc.assert(
    fc.property(fc.constantFrom(...documents), fc.nat(), strange, (document, where, value) => {
      const other = spoilt(document, where, value);
      for (const [accepts, schema] of pairs) {
        const { success } = schema.safeParse(other);
        // What is no plain object of JSON is left to the schema, which may still take it.
        if (accepts(other)) expect(success).toBe(true);
        if (accepts(other) !== success) expect(hasStrangeObject(other)).toBe(true);
        if (success) good += 1;
        else bad += 1;
      }
    }),
    { numRuns: 6000, seed: 20_271_103 },
  );
  expect(good).toBeGreaterThan(200);
  expect(bad).toBeGreaterThan(5000);
});

const hasStrangeObject = (value: unknown): boolean =>
  value !== null &&
  typeof value === 'object' &&
  ((!Array.isArray(value) && Object.getPrototypeOf(value) !== Object.prototype) ||
    Object.values(value).some(hasStrangeObject));

test('a document that is good is given back as it is, and a member of a kind that is not known is told of at once', () => {
  const [document] = documents;
  expect(checkTerms(document)).toMatchObject({ ok: true, terms: document });
  expect(() => acceptsOf(z.date())).toThrow('no quick check');
  expect(() => acceptsOf(z.object({}))).toThrow('no other members');
});
