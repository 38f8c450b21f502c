import { bundleFromString, createConfig, lintFromString } from '@redocly/openapi-core';
import type { Express } from 'express';
import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { SCOPES } from './messages.ts';

let world: World;
let app: Express;
let ask: ReturnType<typeof asking>;
let key = '';

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'owner')).cookie);
  const made = await ask('post', '/api/keys', {
    name: 'A shop',
    scopes: Object.keys(SCOPES),
    expiresOn: null,
  });
  key = made.body.key;
});
afterAll(() => world.end());

const program = (method: 'get' | 'post', path: string, given = key) =>
  request(app)[method](`/api/v1${path}`).set('Authorization', `Bearer ${given}`);

test('a key is shown once, kept as a hash, used within its scopes, and refused once it is revoked', async () => {
  const stored = JSON.stringify(
    await world.almanac.db.rows('select *, encode(key_hash, $form) as hash from api_keys', { form: 'hex' }),
  );
  expect(stored).not.toContain(key);
  expect(JSON.stringify((await ask('get', '/api/keys')).body)).not.toContain(key.slice(20));
  const made = (
    await ask('post', '/api/keys', { name: 'One', scopes: ['plans.read'], expiresOn: '2027-02-01' })
  ).body;
  expect((await program('get', '/plans', made.key)).status).toBe(200);
  expect((await program('get', '/customers', made.key)).status).toBe(403);
  expect((await ask('delete', `/api/keys/${made.id}`)).status).toBe(200);
  expect((await program('get', '/plans', made.key)).status).toBe(401);
  expect((await program('get', '/plans', `${key}x`)).status).toBe(401);
  const again = await ask('post', '/api/keys', { name: 'Two', scopes: ['plans.read'], expiresOn: null }).set(
    'Idempotency-Key',
    'k',
  );
  const kept = JSON.stringify(await world.almanac.db.rows('select * from idempotency_keys'));
  expect(kept).not.toContain(again.body.key);
});

test('lists go by cursor, and each customer comes once', async () => {
  for (let i = 0; i < 7; i += 1) {
    const answer = await program('post', '/customers').send({
      name: `Person ${i} 木`,
      email: `p${i}@post.example`,
    });
    expect(answer.status).toBe(201);
  }
  const names: string[] = [];
  let next: string | null = '';
  while (next !== null) {
    const page = await program('get', `/customers?limit=3${next === '' ? '' : `&after=${next}`}`);
    names.push(...page.body.data.map(({ name }: { name: string }) => name));
    next = page.body.next;
  }
  expect(names).toEqual(Array.from({ length: 7 }, (_, i) => `Person ${i} 木`));
  expect((await program('get', '/customers?after=nonsense')).body).toMatchObject({ status: 400 });
});

test('a POST with an Idempotency-Key is done once, whatever happens beside it', async () => {
  const send = (body: object, name = 'order-1') =>
    program('post', '/customers').set('Idempotency-Key', name).send(body);
  const customer = { name: 'Once', email: 'once@post.example' };
  const answers = await Promise.all(Array.from({ length: 8 }, () => send(customer)));
  const made = answers.filter(({ status }) => status === 201).map(({ body }) => body.id);
  expect(new Set(made).size).toBe(1);
  expect(answers.every(({ status }) => status === 201 || status === 409)).toBe(true);
  expect((await send(customer)).body.id).toBe(made[0]);
  expect((await send({ ...customer, name: 'Other' })).status).toBe(422);
  const refused = { ...customer, email: 'none' };
  expect((await send(refused, 'order-2')).status).toBe(422);
  expect((await send(customer, 'order-2')).status, 'what failed may be sent again').toBe(201);
  const count = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from customers where name = 'Once'`,
  );
  expect(count?.n).toBe(2);
  const byStaff = (name: string) =>
    ask('post', '/api/holidays', { country: '', date: '2027-05-01', name }).set('Idempotency-Key', 'staff-1');
  expect([(await byStaff('May')).status, (await byStaff('May')).status]).toEqual([201, 201]);
});

test('the description is OpenAPI 3.1 that a linter finds nothing wrong with, and covers every route', async () => {
  const description = (await request(app).get('/api/openapi.json')).body;
  expect(description.openapi).toBe('3.1.0');
  const config = await createConfig({ extends: ['recommended'], rules: { 'no-server-example.com': 'off' } });
  const source = JSON.stringify(description);
  const problems = await lintFromString({ source, absoluteRef: 'openapi.json', config });
  // A description served from this machine names it as its server; elsewhere it names the address it is served at.
  const found = problems.filter(({ ruleId }) => ruleId !== 'no-server-example.com');
  expect(found.map(({ ruleId, message }) => `${ruleId}: ${message}`)).toEqual([]);
  await bundleFromString({ source, absoluteRef: 'openapi.json', config });
  expect(Object.keys(description.paths)).toEqual([
    '/api/v1/plans',
    '/api/v1/customers',
    '/api/v1/customers/{id}',
    '/api/v1/subscriptions',
    '/api/v1/subscriptions/{id}',
    '/api/v1/invoices',
    '/api/v1/invoices/{id}',
  ]);
});
