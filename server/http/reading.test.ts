import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, inject, onTestFinished, test, vi } from 'vitest';
import { signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from './app.ts';

/*
 * Reads that take long. What makes them long here is another's lock on a table, which they wait for in the database for as
 * long as the test likes.
 */
let world: World;
let cookie: string;
const servers: Server[] = [];

/** Serves the business, and gives where. */
async function serve(deadlineMs = 30_000): Promise<string> {
  const config = { ...world.almanac.config, READ_DEADLINE_MS: deadlineMs };
  const server = createServer(makeApp({ ...world.almanac, config }, config, '/nowhere').app);
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await world.enrol([{}, {}]);
  ({ cookie } = await signedIn(world, 'owner'));
});
afterAll(async () => {
  for (const server of servers) server.close();
  await world.end();
});

const ask = (url: string, more: RequestInit = {}) =>
  fetch(url, {
    ...more,
    headers: {
      cookie,
      'X-Almanac': '1',
      'Content-Type': 'application/json',
      Origin: world.almanac.config.ALMANAC_URL,
    },
  });

/** Keeps a table from being read until `release` is called. */
async function holding(table: string): Promise<{ release: () => Promise<void> }> {
  const { db } = world.almanac;
  const within = await db.sequelize.transaction();
  await db.rows(`lock table ${table} in access exclusive mode`, {}, within);
  let held = true;
  const release = async () => {
    if (held) await within.commit();
    held = false;
  };
  onTestFinished(release);
  return { release };
}

/** How many connections wait for a lock. */
async function waiting(): Promise<number> {
  const row = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from pg_stat_activity where wait_event_type = 'Lock' and datname = current_database()`,
  );
  return row?.n ?? 0;
}
const untilWaiting = (n: number) =>
  vi.waitFor(async () => expect(await waiting()).toBe(n), { timeout: 20_000, interval: 20 });

test('a few heavy reads go on at once; others wait for them, and what is light is answered', async () => {
  const url = await serve();
  const { release } = await holding('letters');
  const lists = Array.from({ length: 5 }, () => ask(`${url}/api/letters`));
  await untilWaiting(2);
  for (const light of ['/api/business', '/api/customers/1', '/api/find?text=person'])
    expect((await ask(`${url}${light}`)).status, light).toBe(200);
  expect(await waiting(), 'no more than two').toBe(2);
  await release();
  for (const list of lists) expect((await list).status).toBe(200);
});

test('what is read for a browser that has gone is stopped in the database; who waits behind it is answered', async () => {
  const url = await serve();
  const { release } = await holding('letters');
  const gone = new AbortController();
  const given = [1, 2, 3].map(() =>
    ask(`${url}/api/letters`, { signal: gone.signal }).catch((error: Error) => error.name),
  );
  await untilWaiting(2);
  const behind = ask(`${url}/api/customers`);
  gone.abort();
  expect(await Promise.all(given)).toEqual(['AbortError', 'AbortError', 'AbortError']);
  await untilWaiting(0);
  expect((await behind).status, 'while the table is still held').toBe(200);
  await release();
  expect((await ask(`${url}/api/letters`)).status).toBe(200);
});

test('whoever waits too long is told so, and nothing goes on behind that', async () => {
  const url = await serve(300);
  const { release } = await holding('letters');
  const answers = await Promise.all([1, 2, 3].map(() => ask(`${url}/api/letters`)));
  for (const answer of answers) {
    expect(answer.status).toBe(503);
    expect(answer.headers.get('content-type')).toContain('application/problem+json');
    expect(await answer.json()).toMatchObject({ detail: expect.stringContaining('took too long') });
  }
  await untilWaiting(0);
  await release();
  expect((await ask(`${url}/api/letters`)).status).toBe(200);
});

test('a list is all of one moment, and changes nothing', async () => {
  const { db } = world.almanac;
  const count = async () =>
    (await db.row<{ n: number }>('select count(*)::int as n from customer_groups'))?.n;
  await db.readHeavily(new AbortController().signal, async () => {
    expect(await count()).toBe(0);
    await db.transaction((within) =>
      db.rows(`insert into customer_groups (name) values ('Beekeepers')`, {}, within),
    );
    expect(await count(), 'as it stood when the reading began').toBe(0);
    await expect(db.rows(`insert into customer_groups (name) values ('No one')`)).rejects.toThrow(
      /read-only/,
    );
  });
  expect(await count()).toBe(1);
});

test('what is computed of many is computed in a thread, refused as ever, and ended when nobody waits', async () => {
  const url = await serve();
  const { db } = world.almanac;
  const rate = await db.row<{ id: string; version: number; terms: object }>(
    'select id::text, version, terms from rates order by id desc limit 1',
  );
  const path = `${url}/api/rates/${rate?.id}`;
  const asked = (subscribers: object, more = {}) => ({
    method: 'POST',
    body: JSON.stringify({
      version: rate?.version,
      value: { name: 'Only', terms: rate?.terms },
      subscribers,
      ...more,
    }),
  });
  const renewal = { kind: 'renewal', letterDays: 0 };
  const effect = await ask(`${path}/effect`, asked(renewal));
  expect([effect.status, await effect.json()]).toMatchObject([200, { moves: 2, stay: 0 }]);
  const early = await ask(
    `${path}/effect`,
    asked({ kind: 'date', date: '2027-01-01', letterDays: 9, stub: 'free' }),
  );
  expect([early.status, await early.json()]).toMatchObject([
    422,
    { errors: [{ pointer: '/subscribers/date' }] },
  ]);
  const terms = await ask(
    `${path}/effect`,
    asked(renewal, { value: { name: 'Only', terms: { currency: 'GBP' } } }),
  );
  expect([terms.status, await terms.json()]).toMatchObject([
    422,
    { errors: [{ pointer: '/value/terms/lines' }, { pointer: '/value/terms/interval' }] },
  ]);
  const none = await ask(`${url}/api/rates/999999/moves/effect`, {
    method: 'POST',
    body: JSON.stringify({ version: 1, subscribers: renewal }),
  });
  expect(none.status).toBe(404);

  const { release } = await holding('subscriptions');
  const gone = new AbortController();
  const given = ask(`${path}/effect`, { ...asked(renewal), signal: gone.signal }).catch(
    (error: Error) => error.name,
  );
  await untilWaiting(1);
  gone.abort();
  expect(await given).toBe('AbortError');
  await untilWaiting(0);
  await release();
  expect((await ask(`${path}/effect`, asked(renewal))).status, 'by the next thread').toBe(200);
});
