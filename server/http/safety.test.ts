import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Writable } from 'node:stream';
import type { Express } from 'express';
import request from 'supertest';
import { TOTP } from 'otpauth';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { asking, signedIn, type Inside } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { makeKey } from '../programs/keys.ts';
import { hashPassword } from '../staff/password.ts';
import { Person } from '../staff/Person.ts';
import { makeApp } from './app.ts';
import type { RouteTable } from './route.ts';
import { makeSignInToken } from './session.ts';

const PASSWORD = 'heron lantern oblique marsh';

let world: World;
let app: Express;
let table: RouteTable;
let log = '';
let owner: Inside;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  const to = new Writable({
    write(chunk: Buffer, _encoding, done) {
      log += chunk.toString();
      done();
    },
  });
  ({ app, table } = makeApp(world.almanac, { ...world.almanac.config, LOG_LEVEL: 'info' }, '/nowhere', to));
  owner = await signedIn(world, 'owner', 'Olga');
  await world.enrol([{}, {}]);
  await world.turnTo('2027-01-06');
});
afterAll(() => world.end());

const audited = async (did: string) =>
  world.almanac.db.rows<{ subject: string; after: unknown }>(
    'select subject, after from audit_entries where did = $did order by id',
    { did },
  );
/** Somebody with a password of their own, signed in by it; gives the cookies that were set. */
async function withPassword(name: string, role: 'owner' | 'biller' = 'owner') {
  const email = `${name.toLowerCase()}@staff.example`;
  const passwordHash = await hashPassword(PASSWORD, [name], '/password');
  const person = await Person.create({ name, email, role, passwordHash });
  const signIn = async (password = PASSWORD, code = '', cookies = '') =>
    request(app)
      .post('/api/session/password')
      .set('X-Almanac', '1')
      .set('Cookie', cookies)
      .send({ email, password, code });
  const cookiesOf = (answer: request.Response) =>
    ((answer.headers['set-cookie'] ?? []) as unknown as string[]).map((one) => one.split(';')[0]).join('; ');
  return { person, email, signIn, cookiesOf };
}
const minutesAgo = (cookieOwner: Person, column: 'confirmed_at' | 'seen_at', minutes: number) =>
  world.almanac.db.rows(
    `update sessions set ${column} = now() - make_interval(mins => $minutes) where person_id = $id`,
    { minutes, id: cookieOwner.id },
  );

test('the log of all routes, asked by everybody, holds no secret, link, cookie, or address of a person', async () => {
  const somebody = await withPassword('Ludmila');
  const answer = await somebody.signIn();
  expect(answer.status).toBe(201);
  const cookies = somebody.cookiesOf(answer);
  await somebody.signIn('not the password at all');
  const { key } = await makeKey(world.almanac, {
    ...{ name: 'Books', scopes: ['customers:read'], expiresOn: null },
  } as never);
  const [link] = await CustomerLink.findAll({ limit: 1 });
  const own = link
    ? linkToken(world.almanac, link.id, 'own')
    : '1.AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA';
  const once = await makeSignInToken(world.almanac.db);
  for (const { method, path } of table) {
    const real = path
      .replace('/api/own/:token', `/API/own/${own}`)
      .replace(':token', once)
      .replace(/:\w+/g, '1');
    for (const headers of [{ Cookie: cookies }, { Authorization: `Bearer ${key}` }, {}])
      await request(app)
        [method](`${real}?search=ludmila@staff.example&token=${once}`)
        .set('X-Almanac', '1')
        .set(headers as never)
        .send(method === 'get' ? undefined : { email: somebody.email, password: PASSWORD });
  }
  const lines = log.trim().split('\n');
  expect(lines.length).toBeGreaterThan(table.length * 2);
  const secrets = [
    ...cookies.split('; ').map((cookie) => cookie.slice(cookie.indexOf('=') + 1)),
    ...[
      key,
      own,
      own.split('.')[1] ?? '',
      once,
      PASSWORD,
      somebody.email,
      'ludmila',
      'post.example',
      'Bearer',
    ],
    world.environment.ALMANAC_SECRET ?? '',
    world.environment.GATEWAY_SECRET_KEY ?? '',
  ];
  for (const secret of secrets) expect(log.toLowerCase(), secret).not.toContain(secret.toLowerCase());
  expect(log).not.toMatch(/set-cookie|authorization|user-agent/i);
});

describe('what comes in another shape than it should is refused, not crashed on', () => {
  const write = () =>
    request(app).post('/api/needs/1/seen').set('X-Almanac', '1').set('Cookie', owner.cookie);

  test('an origin that is none, a cookie that is not well-formed, an order that is no order', async () => {
    expect((await write().set('Origin', 'null')).status).toBe(403);
    expect((await write().set('Origin', 'no origin')).status).toBe(403);
    const bad = await request(app).get('/api/me').set('Cookie', 'almanac_session=%E0%A4%A; almanac_device=%');
    expect(bad.status).toBe(401);
    for (const sort of ['constructor', '-toString', '__proto__', 'hasOwnProperty'])
      for (const list of ['customers', 'subscriptions', 'plan-list', 'cases', 'letters', 'audit'])
        expect(
          (await asking(app, owner.cookie)('get', `/api/${list}?sort=${sort}`)).status,
          `${list} ${sort}`,
        ).toBe(200);
  });

  test('a message that is nested thousands deep, of staff or of strangers', async () => {
    const deep = '['.repeat(100_000) + ']'.repeat(100_000);
    for (const cookie of [owner.cookie, '']) {
      const { status } = await request(app)
        .post('/api/session/password')
        .set('X-Almanac', '1')
        .set('Cookie', cookie)
        .set('Content-Type', 'application/json')
        .send(deep);
      expect([400, 413]).toContain(status);
    }
  });

  test('a large body of somebody who may not send it is not read', async () => {
    const large = Buffer.alloc(900_000, 'a');
    const send = (path: string, cookie: string) =>
      request(app)
        .post(path)
        .set('X-Almanac', '1')
        .set('Cookie', cookie)
        .set('Content-Type', path.includes('offer') ? 'text/plain' : 'image/png')
        .send(large);
    const reader = await signedIn(world, 'reader', 'Rita');
    expect((await send('/api/uploads/logo', '')).status).toBe(401);
    expect((await send('/api/uploads/logo', reader.cookie)).status).toBe(403);
    expect((await send('/api/offer', reader.cookie)).status).toBe(403);
    const message = { email: 'x@post.example', password: 'a'.repeat(90_000) };
    const strange = await request(app).post('/api/session/password').set('X-Almanac', '1').send(message);
    expect(strange.status).toBe(413);
  });

  test('a rail of years', async () => {
    const far = await asking(app, owner.cookie)('get', '/api/rail?from=2027-01-01&to=2029-01-01');
    expect([far.status, far.body.errors[0].pointer]).toEqual([422, '/to']);
  });
});

describe('guessing', () => {
  test('a second factor is slowed on a known device too: a right password does not clear the count', async () => {
    const guessed = await withPassword('Gus');
    const first = await guessed.signIn();
    const cookies = guessed.cookiesOf(first);
    const inside = asking(app, cookies);
    const { letters } = (await inside('post', '/api/me/second-factor', { password: PASSWORD })).body;
    const code = () => new TOTP({ secret: letters }).generate();
    expect((await inside('post', '/api/me/second-factor/confirm', { code: code() })).status).toBe(201);
    const statuses: number[] = [];
    for (let guess = 0; guess < 12; guess += 1) {
      statuses.push((await guessed.signIn(PASSWORD, '000000', cookies)).status);
      statuses.push((await guessed.signIn(PASSWORD, '', cookies)).status);
    }
    expect(statuses.filter((status) => status === 422).length).toBeLessThanOrEqual(5);
    expect(statuses.at(-1)).toBe(429);
    expect((await audited('was refused at the door')).at(-1)).toMatchObject({
      ...{ subject: guessed.email, after: { why: 'a wrong code' } },
    });
  });

  test('inside of a session wrong passwords and codes are counted; turning the second factor off asks for a code', async () => {
    const inside = await withPassword('Ingrid');
    const ask = asking(app, inside.cookiesOf(await inside.signIn()));
    const { letters } = (await ask('post', '/api/me/second-factor', { password: PASSWORD })).body;
    const totp = new TOTP({ secret: letters });
    await ask('post', '/api/me/second-factor/confirm', { code: totp.generate() });
    expect(
      (await ask('post', '/api/me/second-factor/off', { password: PASSWORD })).body.errors[0].pointer,
    ).toBe('/code');
    const wrong = await Promise.all(
      [1, 2, 3, 4, 5, 6, 7, 8].map((n) =>
        ask('put', '/api/me/password', { current: `not mine ${n}`, next: 'another lantern oblique marsh' }),
      ),
    );
    expect(wrong.map(({ status }) => status).sort()).toEqual([422, 422, 422, 422, 429, 429, 429, 429]);
    await world.almanac.db.rows('delete from sign_in_tries');
    await world.almanac.db.rows('update people set last_factor_step = null where id = $id', {
      id: inside.person.id,
    });
    const off = { password: PASSWORD, code: totp.generate() };
    expect((await ask('post', '/api/me/second-factor/off', off)).status).toBe(201);
    await ask('put', '/api/me/password', { current: PASSWORD, next: 'another lantern oblique marsh' });
    const told = await world.almanac.db.rows<{ subject: string; to_address: string }>(
      `select subject, to_address from staff_letters where kind = 'safety' and person_id = $id order by id`,
      { id: inside.person.id },
    );
    expect(told.map(({ subject }) => subject)).toEqual([
      'Your second factor was turned on',
      'Your second factor was turned off',
      'Your password was changed',
    ]);
    expect(new Set(told.map(({ to_address }) => to_address))).toEqual(new Set([inside.email]));
  });
});

describe('a session', () => {
  test('asks for a new sign-in before roles, keys, gateways, mail and security are changed', async () => {
    const boss = await withPassword('Bea');
    const ask = asking(app, boss.cookiesOf(await boss.signIn()));
    const invitation = { name: 'New', email: 'new@staff.example', role: 'reader' };
    expect((await ask('post', '/api/invitations', invitation)).status).toBe(201);
    await minutesAgo(boss.person, 'confirmed_at', 20);
    const sensitive: ['post' | 'put' | 'delete', string, object?][] = [
      ['post', '/api/invitations', { ...invitation, email: 'other@staff.example' }],
      ['put', `/api/people/${boss.person.id}`, { version: 1, value: { name: 'B', role: 'owner' } }],
      ['delete', `/api/people/${owner.person.id}`],
      ['post', '/api/keys', { name: 'K', scopes: [], expiresOn: null }],
      ['delete', '/api/keys/1'],
      ['post', '/api/gateways', { key: 'a-key-of-some-gateway' }],
      ['post', '/api/gateways/1/disconnect', { version: 1 }],
      ['post', '/api/gateways/1/rotate'],
      ['post', '/api/gateways/hand-over'],
      ['put', '/api/setup/mail', {}],
      ['put', '/api/setup/security', {}],
    ];
    for (const [method, path, body] of sensitive) {
      const { status, body: problem } = await ask(method, path, body);
      expect([status, problem.code], `${method} ${path}`).toEqual([403, 'sign in again']);
    }
    expect((await ask('get', '/api/people')).status).toBe(200);
    const wrong = await ask('post', '/api/session/again', { password: 'not the password' });
    expect([wrong.status, wrong.body.errors[0].pointer]).toEqual([422, '/password']);
    expect((await ask('post', '/api/session/again', { password: PASSWORD })).status).toBe(201);
    expect(
      (await ask('post', '/api/invitations', { ...invitation, email: 'other@staff.example' })).status,
    ).toBe(201);
  });

  test('that is idle ends, and a second factor that is demanded is asked for before all else', async () => {
    const idle = await withPassword('Ida');
    const ask = asking(app, idle.cookiesOf(await idle.signIn()));
    await minutesAgo(idle.person, 'seen_at', 119);
    expect((await ask('get', '/api/me')).status).toBe(200);
    await minutesAgo(idle.person, 'seen_at', 121);
    expect((await ask('get', '/api/me')).status).toBe(401);

    const again = asking(app, idle.cookiesOf(await idle.signIn()));
    const { version } = (await again('get', '/api/setup/security')).body;
    const set = { version, value: { demandFactor: 'owners', idleMinutes: 30 } };
    expect((await again('put', '/api/setup/security', set)).status).toBe(200);
    expect((await again('get', '/api/customers')).body.code).toBe('second factor wanted');
    expect((await again('get', '/api/me')).status).toBe(200);
    expect((await again('get', '/api/business')).body.wantsFactor).toBe(true);
    const biller = await withPassword('Bill', 'biller');
    expect((await asking(app, biller.cookiesOf(await biller.signIn()))('get', '/api/customers')).status).toBe(
      200,
    );
    await minutesAgo(idle.person, 'seen_at', 31);
    expect((await again('get', '/api/me')).status).toBe(401);
    await world.almanac.db.rows(`delete from settings where section = 'security'`);
  });

  test('has cookies that are bound to the host where pages are served by https', async () => {
    const config = { ...world.almanac.config, ALMANAC_URL: 'https://almanac.example' };
    const safe = makeApp({ ...world.almanac, config }, config, '/nowhere').app;
    const hetty = await withPassword('Hetty');
    const answer = await request(safe)
      .post('/api/session/password')
      .set('X-Almanac', '1')
      .send({ email: hetty.email, password: PASSWORD, code: '' });
    for (const cookie of (answer.headers['set-cookie'] ?? []) as unknown as string[])
      expect(cookie).toMatch(
        /^__Host-almanac_(session|device)=.*Path=\/;.*HttpOnly; Secure; SameSite=Strict/,
      );
  });

  test('what somebody tried who may not is on the audit', async () => {
    const reader = await signedIn(world, 'reader', 'Rosa');
    await asking(app, reader.cookie)('post', '/api/customers/1/links/end');
    expect((await audited('was refused')).at(-1)).toMatchObject({ subject: 'ended a customer’s links' });
  });
});

test('a kept password of a mail server goes to no other server, port, user or protection', async () => {
  const read = async () => (await asking(app, owner.cookie)('get', '/api/setup/mail')).body;
  const server = {
    host: 'smtp.post.example',
    port: 465,
    security: 'tls',
    user: 'me',
    password: 'kept one',
  };
  const store = async (to: object) => {
    const { version, value } = await read();
    const { status } = await asking(app, owner.cookie)('put', '/api/setup/mail', {
      ...{ version, value: { ...value, server: { ...server, password: '', ...to } } },
    });
    expect(status).toBe(200);
    return (await read()).value.server.hasPassword as boolean;
  };
  for (const other of [
    { port: 25 },
    { security: 'none' },
    { host: 'smtp.evil.example' },
    { user: 'other' },
  ]) {
    expect(await store({ password: 'kept one' })).toBe(true);
    expect(await store({}), 'the same way').toBe(true);
    expect(await store(other), JSON.stringify(other)).toBe(false);
  }
});

test('what everybody may read is sent compressed, and answers that may hold secrets are not', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'almanac-web-'));
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'assets', 'page.js'), 'export const words = 1;\n'.repeat(2000));
  const served = makeApp(world.almanac, world.almanac.config, folder).app;
  const asked = (path: string) =>
    request(served).get(path).set('Accept-Encoding', 'gzip').set('Cookie', owner.cookie);
  expect((await asked('/assets/page.js')).headers['content-encoding']).toBe('gzip');
  expect((await asked('/api/audit')).headers['content-encoding']).toBeUndefined();
  rmSync(folder, { recursive: true });
});

test('pictures and documents have room up to a bound, and what does not fit is said beside the field', async () => {
  const dot = Buffer.from('<svg viewBox="0 0 9 9" width="9" height="9"><rect width="9" height="9"/></svg>');
  const upload = () =>
    request(app)
      .post('/api/uploads/logo')
      .set('X-Almanac', '1')
      .set('Cookie', owner.cookie)
      .set('Content-Type', 'image/svg+xml')
      .send(dot);
  expect((await upload()).status).toBe(201);
  await world.almanac.db.rows(
    `insert into uploads (kind, media_type, name, bytes, address)
     select 'document', 'application/pdf', 'large', convert_to(repeat('x', 100000000), 'UTF8'), 'large' || n
     from generate_series(1, 5) n`,
  );
  const full = await upload();
  expect([full.status, full.body.errors[0].pointer]).toEqual([422, '/file']);
  await world.almanac.db.rows(`delete from uploads where name = 'large'`);
});
