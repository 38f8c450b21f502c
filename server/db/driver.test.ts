import { expect, inject, test } from 'vitest';
import { driver, Statements } from './driver.ts';

const LATE = Object.assign(new Error('prepared statement does not exist'), { code: '26000' });

test('what comes again and again is prepared under one name; what comes seldom is not', () => {
  const statements = new Statements();
  const names = Array.from({ length: 6 }, () => statements.nameOf('select $1'));
  expect(names.slice(0, 3)).toEqual([null, null, null]);
  expect(new Set(names.slice(3)).size).toBe(1);
  // PostgreSQL cuts longer names off, and then two would be one.
  expect(names[3]?.length).toBeLessThan(64);
  for (let n = 0; n < 2000; n += 1) statements.nameOf(`select ${n}, $1`);
  expect([1, 2, 3, 4, 5].map(() => statements.nameOf('select 1999, $1'))).toEqual([
    null,
    null,
    null,
    null,
    null,
  ]);
  expect(statements.nameOf('select $1')).toBe(names[3]);
});

test('behind a proxy that changes connections nothing is prepared any more', () => {
  const statements = new Statements();
  for (let n = 0; n < 5; n += 1) statements.nameOf('select $1');
  statements.note(Object.assign(new Error('a key is there already'), { code: '23505' }));
  expect(statements.nameOf('select $1')).not.toBeNull();
  statements.note(LATE);
  expect(statements.nameOf('select $1')).toBeNull();
});

test('a statement that a connection has lost is told of, and the next one is sent as it is', async () => {
  const statements = new Statements();
  const { Client } = driver(statements);
  const client = new Client({ connectionString: inject('databaseUrl') });
  await client.connect();
  const ask = () =>
    new Promise<unknown>((answer, fail) => {
      client.query('select $1::int + 1 as n', [41], (error, result) =>
        error ? fail(error) : answer(result.rows[0]),
      );
    });
  for (let n = 0; n < 5; n += 1) expect(await ask()).toEqual({ n: 42 });
  const prepared = await client.query('select name from pg_prepared_statements');
  expect(prepared.rows).toHaveLength(1);
  await client.query('deallocate all');
  await expect(ask()).rejects.toThrow('does not exist');
  expect(await ask()).toEqual({ n: 42 });
  await client.end();
});

test('a connection that is cut before anybody listens to it is not used any more, and ends nothing else', () => {
  const { Client } = driver(null);
  const client = new Client();
  expect(() => client.emit('error', new Error('terminating connection'))).not.toThrow();
  expect((client as unknown as { _invalid: boolean })._invalid).toBe(true);
});
