import express, { type Express } from 'express';
import request from 'supertest';
import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from './app.ts';
import { sendCsv } from './csv.ts';
import { problemHandler, RefusedCommand } from './problem.ts';
import type { RouteTable } from './route.ts';

let world: World;
let app: Express;
let table: RouteTable;
let ask: ReturnType<typeof asking>;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await world.enrol(Array.from({ length: 46 }, (_, i) => (i % 12 === 0 ? { code: '51' } : {})));
  await world.turnTo('2027-01-09');
  ({ app, table } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'owner')).cookie);
});
afterAll(() => world.end());

/** The rows of a file, each with its cells by their headings. */
async function file(path: string): Promise<Record<string, string>[]> {
  const { status, headers, body } = await ask('get', path).responseType('blob');
  expect([status, headers['content-type']], path).toEqual([200, 'text/csv; charset=utf-8']);
  expect(headers['content-disposition']).toMatch(/^attachment; filename="?[a-z-]+\.csv"?$/);
  const written = (body as Buffer).toString('utf8');
  expect(written.charCodeAt(0), 'the mark of UTF-8').toBe(0xfeff);
  return parse(written, { bom: true, columns: true }) as Record<string, string>[];
}

test('every list goes out as a file, with as many rows as it has in all of its pages', async () => {
  const lists = table.filter(({ path }) => path.endsWith('.csv') && !/codes|rows-to-mend|account/.test(path));
  const rate = await world.almanac.db.row<{ id: string }>('select id::text from rates limit 1');
  expect(lists.length).toBeGreaterThanOrEqual(9);
  for (const { path } of lists) {
    const of = path.replace(':id', rate?.id ?? '');
    const { total } = (await ask('get', of.replace('.csv', ''))).body as { total: number };
    const rows = await file(of);
    // What was just taken stands on the audit itself.
    if (!of.includes('audit')) expect(rows.length, of).toBe(total);
    if (total > 0) expect(Object.values(rows[0] ?? {}).join(''), of).not.toBe('');
  }
  const taken = await world.almanac.db.rows(
    `select 1 from audit_entries where did = 'took a list as a file'`,
  );
  expect(taken.length, 'who took which list is on the audit').toBe(lists.length);
});

test('a file has the rows of the screen in their order, whatever is asked', async () => {
  for (const query of [
    '',
    '?sort=-next',
    '?sort=next',
    '?sort=-plan',
    '?state=overdue',
    '?search=Person%201',
  ]) {
    const shown: { id: string }[] = [];
    for (let page = 1, pages = 1; page <= pages; page += 1) {
      const asked = `/api/subscriptions${query === '' ? '?' : `${query}&`}page=${page}`;
      const { body } = (await ask('get', asked)) as { body: { pages: number; rows: { id: string }[] } };
      shown.push(...body.rows);
      ({ pages } = body);
    }
    expect(
      (await file(`/api/subscriptions.csv${query}`)).map((row) => row.Subscription),
      query,
    ).toEqual(shown.map(({ id }) => id));
  }
});

test('amounts and dates are for programs; no cell is a formula, and signs come out as they were stored', async () => {
  const names = [
    '=HYPERLINK("//evil.example")',
    '+1',
    '-1+1',
    '@SUM(A1)',
    '\tTab',
    'Ἑλένη, "née" Ѕ\nOnd\u0159ej',
    "O'Neill",
  ];
  for (const [i, name] of names.entries())
    await world.almanac.db.rows(
      'update customers set name = $name where id = (select id from customers order by id offset $i limit 1)',
      { name, i },
    );
  const rows = await file('/api/customers.csv');
  const written = rows.map(({ Name }) => Name ?? '');
  for (const name of names.slice(0, 5)) expect(written).toContain(`'${name}`);
  for (const name of names.slice(5)) expect(written).toContain(name);
  expect(written.filter((name) => /^[=+\-@\t]/.test(name))).toEqual([]);
  const [first] = await file('/api/subscriptions.csv?state=active');
  expect(first).toMatchObject({
    'Next charge': '2027-02-04',
    'Next amount': '10.00',
    Currency: 'GBP',
    'Cannot be charged': '',
  });
  const [open] = await file('/api/cases.csv');
  expect(open).toMatchObject({ State: 'open', Owed: '10.00', Currency: 'GBP', Opened: '2027-01-04' });
});

test('who may not see a list gets no file of it', async () => {
  expect((await asking(app)('get', '/api/customers.csv')).status).toBe(401);
  const reader = asking(app, (await signedIn(world, 'reader', 'Reads')).cookie);
  expect((await reader('get', '/api/customers.csv')).status).toBe(200);
  expect((await reader('get', '/api/audit.csv')).status).toBe(403);
});

test('what is refused before the first row is a problem; what fails later is seen to be broken off', async () => {
  async function* rows(fails: number) {
    for (let n = 0; n < 4; n += 1) {
      if (n === fails) throw new RefusedCommand(422, 'These are too many.');
      yield Array.from({ length: 500 }, (_, i) => ({ n: n * 500 + i }));
      await Promise.resolve();
    }
  }
  const small = express();
  small.get('/:fails', async (asked, response) => {
    const { signal } = new AbortController();
    await sendCsv(response, 'some', { n: ({ n }) => n }, rows(Number(asked.params.fails)), signal);
  });
  small.use(problemHandler);
  expect((await request(small).get('/0')).body).toMatchObject({ status: 422, detail: 'These are too many.' });
  await expect(request(small).get('/2')).rejects.toThrow(/aborted|hang up|terminated/);
  const whole = await request(small).get('/9').responseType('blob');
  expect((whole.body as Buffer).toString().trim().split('\r\n')).toHaveLength(2_001);
});
