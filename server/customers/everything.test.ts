import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { PARTS } from './everything.sql.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

test('all that is held about a customer is given out, of nobody else, and without secrets', async () => {
  const [one = '', other = ''] = await world.enrol([{ code: '51' }, {}]);
  await world.turnTo('2027-01-08');
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${one}`);
  await offering.done('post', `/api/customers/${customerId}/messages`, { says: 'We tried your card.' });
  const answer = await offering.ask('get', `/api/customers/${customerId}/everything.json`);
  expect(answer.status).toBe(200);
  expect(answer.headers['content-disposition']).toContain('attachment');
  const held = answer.body as Record<string, object[]>;
  expect(Object.keys(held)).toEqual(['asOf', ...Object.keys(PARTS)]);
  expect(held.customer).toHaveLength(1);
  expect(held.attempts?.[0]).toMatchObject({ state: 'declined', response_code: '51' });
  for (const part of [
    'payment_methods',
    'mandates',
    'subscriptions',
    'invoices',
    'cases',
    'letters',
    'messages',
    'links',
  ])
    expect(held[part]?.length, part).toBeGreaterThan(0);
  expect(held.subscriptions).toHaveLength(1);
  const tokens = await world.almanac.db.rows<{ token: string }>(
    'select gateway_token as token from payment_methods',
  );
  for (const { token } of tokens) expect(answer.text).not.toContain(token);
  expect(answer.text).not.toContain(`"${other}"`);
  const reader = asking(offering.app, (await signedIn(world, 'reader')).cookie);
  expect((await reader('get', `/api/customers/${customerId}/everything.json`)).status).toBe(403);
  expect((await offering.ask('get', '/api/customers/999999/everything.json')).status).toBe(404);
});

test('every table that belongs to customers is part of it', async () => {
  const tables = await world.almanac.db.rows<{ name: string }>(
    `select table_name as name from information_schema.columns
     where table_schema = 'public' and column_name = 'customer_id' and table_name not in (select viewname from pg_views) order by 1`,
  );
  const all = Object.values(PARTS).join('\n');
  expect(tables.length).toBeGreaterThan(6);
  expect(tables.filter(({ name }) => !new RegExp(`(from|join) ${name}\\b`).test(all))).toEqual([]);
});
