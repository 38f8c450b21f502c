import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Database } from './database.ts';
import { unnested } from './unnested.ts';

let db: Database;
beforeAll(() => {
  db = new Database(inject('databaseUrl'));
});
afterAll(() => db.close());

/** Text as PostgreSQL can keep it: any but the character of number 0. */
const text = fc
  .oneof(
    fc.string({ unit: 'grapheme' }),
    fc.constantFrom(
      '',
      'NULL',
      'null',
      '{',
      '}',
      ',',
      '"',
      '\\',
      '\\"',
      "'; --",
      ' a ',
      '\n',
      '{"a": ["b"]}',
    ),
  )
  .filter((value) => !value.includes('\0'));

test('whatever rows are handed over come out as they went in, and in their order', async () => {
  const row = fc.record({
    says: fc.option(text),
    amount: fc.option(fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n })),
    count: fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }),
    holds: fc.option(fc.boolean()),
    fields: fc.option(fc.jsonValue({ stringUnit: 'grapheme' }).map((value) => JSON.stringify(value))),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(row, { maxLength: 12 }), async (rows) => {
      fc.pre(rows.every(({ fields }) => !fields?.includes('\\u0000')));
      const { table, bound } = unnested(
        { says: 'text', amount: 'bigint', count: 'int', holds: 'boolean', fields: 'jsonb' },
        rows,
      );
      const back = await db.rows(
        `select says, amount::text, count, holds, fields, place::int from ${table} order by place`,
        bound,
      );
      expect(back).toEqual(
        rows.map(({ fields, amount, ...rest }, i) => ({
          ...rest,
          amount: amount === null ? null : String(amount),
          fields: fields === null ? null : (JSON.parse(fields) as unknown),
          place: i + 1,
        })),
      );
    }),
    { numRuns: 150 },
  );
});
