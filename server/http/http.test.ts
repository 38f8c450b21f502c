import request from 'supertest';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import type { Express } from 'express';
import { World } from '../../testing/world.ts';
import { makeKey } from '../programs/keys.ts';
import { SCOPES, type Scope } from '../programs/messages.ts';
import { makeApp } from './app.ts';
import { ROLES, type Role } from '../staff/messages.ts';
import { Person } from '../staff/Person.ts';
import { beginSession } from './session.ts';
import type { RouteTable } from './route.ts';

let world: World;
let app: Express;
let table: RouteTable;
const cookies = new Map<Role, string>();

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app, table } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  for (const role of ROLES) {
    let cookie = '';
    const response = { cookie: (name: string, value: string) => (cookie = `${name}=${value}`) };
    const person = await Person.create({ name: role, email: `${role}@post.example`, role });
    await beginSession(world.almanac.db, { get: () => '' } as never, response as never, person.id, false);
    cookies.set(role, cookie);
  }
});
afterAll(() => world.end());

const ask = (method: string, path: string, role?: Role, ours = true) => {
  const asked = request(app)[method as 'get'](path.replace(/:\w+/g, '999'));
  if (ours) asked.set('X-Almanac', '1');
  return role ? asked.set('Cookie', cookies.get(role) ?? '') : asked;
};

describe('every route', () => {
  test('asks for its role, for strangers and for each role', async () => {
    expect(table.length).toBeGreaterThan(80);
    for (const { method, path, may } of table) {
      const stranger = (await ask(method, path)).status;
      if (may === 'anyone') {
        expect([401, 403], `${method} ${path}`).not.toContain(stranger);
        continue;
      }
      expect(stranger, `${method} ${path} by a stranger`).toBe(401);
      for (const role of ROLES) {
        const { status } = await ask(method, path, role);
        const label = `${method} ${path} by a ${role}`;
        // A program's route takes a key alone: nobody's session opens it.
        if ('scope' in may) expect(status, label).toBe(401);
        else if (may.includes(role)) expect([401, 403, 500], label).not.toContain(status);
        else expect(status, label).toBe(403);
      }
    }
  });

  test('for programs asks for the scope of its key', async () => {
    for (const { method, path, may } of table) {
      if (typeof may === 'string' || !('scope' in may)) continue;
      for (const scope of Object.keys(SCOPES) as Scope[]) {
        const { key } = await makeKey(world.almanac, { name: scope, scopes: [scope], expiresOn: null });
        const { status } = await ask(method, path).set('Authorization', `Bearer ${key}`);
        const label = `${method} ${path} with ${scope}`;
        if (scope === may.scope) expect([401, 403, 500], label).not.toContain(status);
        else expect(status, label).toBe(403);
      }
    }
  });

  test('that writes leaves an entry in the audit when it did something, and says what', async () => {
    const writes = table.filter(({ method }) => method !== 'get');
    expect(writes.filter(({ did }) => did === '')).toEqual([]);
    const count = async () =>
      (await world.almanac.db.row<{ n: number }>('select count(*)::int as n from audit_entries'))?.n ?? 0;
    const tried: [string, string, object][] = [
      ['put', '/api/setup/taxing', { version: 0, value: { defaultTax: null, noTax: true } }],
      ['post', '/api/holidays', { country: 'GB', date: '2027-12-27', name: 'Boxing Day' }],
      ['post', '/api/keys', { name: 'One', scopes: ['plans.read'], expiresOn: null }],
      ['post', '/api/gateways/hand-over', {}],
    ];
    for (const [method, path, body] of tried) {
      const before = await count();
      const { status } = await ask(method, path, 'owner').send(body);
      expect(status, path).toBeLessThan(300);
      expect(await count(), path).toBe(before + 1);
    }
  });

  test('that writes refuses what another site sends', async () => {
    const byCookie = table.filter(
      ({ method, may }) => method !== 'get' && !(typeof may === 'object' && 'scope' in may),
    );
    for (const { method, path } of byCookie) {
      expect((await ask(method, path, 'owner', false)).status, `${method} ${path}`).toBe(403);
      const foreign = await ask(method, path, 'owner').set('Origin', 'https://elsewhere.example');
      expect(foreign.status, `${method} ${path} from elsewhere`).toBe(403);
    }
  });
});

test('a card number is refused wherever one could be slipped in', async () => {
  const card = { number: '9171000000000012', expiresMonth: 1, expiresYear: 2030 };
  for (const path of ['/api/subscriptions', '/api/customers/1/card', '/api/own/1.x/card']) {
    const { status } = await ask('post', path, 'owner').send({ token: 'a-token-of-the-gateway', card });
    expect(status, path).toBe(422);
  }
});

test('faults come back as problems with a pointer to each field', async () => {
  const plan = {
    name: ' ',
    rate: {
      name: 'Monthly',
      terms: { currency: 'GBP', lines: [{ price: { scheme: 'flat', amount: '1.234' } }], interval: 'P0M' },
    },
  };
  const nameless = await ask('post', '/api/plans', 'biller').send(plan);
  expect(nameless.headers['content-type']).toContain('application/problem+json');
  expect(nameless.body.errors.map((fault: { pointer: string }) => fault.pointer)).toEqual(['/name']);
  const named = await ask('post', '/api/plans', 'biller').send({ ...plan, name: 'Post' });
  expect(named.status).toBe(422);
  expect(named.body.errors.map((fault: { pointer: string }) => fault.pointer).sort()).toEqual([
    '/rate/terms/interval',
    '/rate/terms/lines/0/price/amount',
  ]);
});

test.each([
  ['a page to turn to that lies ages ahead', 'post', '/api/turns', { to: '2199-01-01' }, 422],
  ['a page that has been turned', 'post', '/api/turns', { to: '2026-12-31' }, 422],
  ['a day of no year of ours', 'get', '/api/days/9999-12-31', {}, 422],
  ['a rail that ends before it starts', 'get', '/api/rail?from=2027-02-01&to=2027-01-01', {}, 200],
  ['a character that no text can hold', 'get', '/api/customers?search=%00', {}, 422],
  ['an identity that is none', 'get', '/api/subscriptions/1%20or%201', {}, 404],
  ['a page of a list beyond the last', 'get', '/api/letters?page=99999', {}, 200],
  [
    'a price too large for the books',
    'post',
    '/api/plans',
    {
      name: 'Vast',
      rate: {
        name: 'Vast',
        terms: {
          currency: 'GBP',
          interval: 'P1M',
          lines: [{ price: { scheme: 'flat', amount: '99999999999999.00' } }],
        },
      },
    },
    422,
  ],
] as const)('%s is answered, not crashed on', async (_, method, path, body, expected) => {
  const asked = ask(method, path, 'owner');
  expect((await (method === 'post' ? asked.send(body) : asked)).status).toBe(expected);
});

test('a webhook that is not signed by the gateway is refused', async () => {
  const { status } = await request(app)
    .post('/hooks/gateways/1')
    .set({ 'webhook-id': 'a', 'webhook-timestamp': '1', 'webhook-signature': 'v1,AAAA' })
    .send({ type: 'money.collected', data: {} });
  expect(status).toBe(400);
});

test('searching with the database’s own wildcards finds only what is written', async () => {
  await world.enrol([{}]);
  const found = await ask('get', '/api/customers?search=%25', 'reader');
  expect(found.body.total).toBe(0);
  expect((await ask('get', '/api/customers?search=person', 'reader')).body.total).toBe(1);
});
