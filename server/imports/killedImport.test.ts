import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { ImportView } from './messages.ts';

/** So many rows that bringing them in takes some seconds. */
const ROWS = 6_000;
let world: World;
let cookie: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await (
    await Offering.of(world)
  ).plan(
    { name: 'Adopt a Row' },
    { interval: 'P1M', lines: [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }] },
  );
  ({ cookie } = await signedIn(world, 'biller'));
});
afterAll(() => world.end());

const server = () =>
  world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
const ask = (method: 'get' | 'post', path: string) =>
  request(world.environment.ALMANAC_URL ?? '')
    [method](path)
    .set('X-Almanac', '1')
    .set('Cookie', cookie);
const counted = async () => {
  const { rows } = (await world.almanac.db.row<{ rows: number }>(
    `select (select count(*) from customers where reference like 'K%')::int
       + (select count(*) from subscriptions s join customers c on c.id = s.customer_id where c.reference like 'K%')::int as rows`,
  )) ?? { rows: -1 };
  return rows;
};

test('a server that is killed while it brings a file in leaves nothing of it; the import says so, and comes in when it is begun again', async () => {
  const process = await server();
  const rows = Array.from(
    { length: ROWS },
    (_, i) => `K${i},Person ${i},person${i}@post.example,Adopt a Row,Only,2027-01-05`,
  );
  const given = await ask('post', '/api/imports?name=members.csv')
    .set('Content-Type', 'application/octet-stream')
    .send(Buffer.from(['reference,name,email,plan,rate,starts', ...rows].join('\r\n')));
  expect(given.status, JSON.stringify(given.body)).toBe(201);
  const path = `/api/imports/${(given.body as { id: string }).id}`;
  const view = async () => (await ask('get', path)).body as ImportView;
  const begin = async (to: 'check' | 'start') =>
    (await ask('post', `${path}/${to}`).send({ mapping: (await view()).mapping })).status;
  const until = (state: string) =>
    expect.poll(async () => (await view()).state, { timeout: 60_000, interval: 50 }).toBe(state);
  expect(await begin('check')).toBeLessThan(300);
  await until('checked');

  expect(await begin('start')).toBeLessThan(300);
  await expect.poll(async () => (await view()).done, { timeout: 60_000, interval: 20 }).toBeGreaterThan(0);
  const died = new Promise((resolve) => process.once('exit', resolve));
  process.kill('SIGKILL');
  await died;
  // The database undoes what the connection of the dead has not ended.
  await expect.poll(counted, { timeout: 30_000 }).toBe(0);

  await server();
  // As if a minute had gone by.
  await world.almanac.db.rows(`update imports set beat_at = now() - interval '2 minutes'`);
  expect(await view()).toMatchObject({
    state: 'broken',
    says: expect.stringContaining('Nothing of it is stored'),
  });
  expect(await begin('check')).toBeLessThan(300);
  await until('checked');
  expect(await begin('start')).toBeLessThan(300);
  await until('done');
  expect(await counted()).toBe(2 * ROWS);
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});
