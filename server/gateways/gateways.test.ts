import { createHash } from 'node:crypto';
import type { Server } from 'node:http';
import type { Express } from 'express';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { chooseAccount } from '../../testing/handOver.ts';
import { until, World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { verify } from '../verify/verify.ts';
import { testConnections } from './health.ts';

let world: World;
let app: Express;
let server: Server;
let ask: ReturnType<typeof asking>;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'owner')).cookie);
  // Webhooks come over the network, so that they are answered by a server that listens.
  await new Promise<void>((resolve) => {
    server = app.listen(world.almanac.config.PORT, '127.0.0.1', () => resolve());
  });
});
afterAll(async () => {
  server.close();
  await world.end();
});

const gateway = (path: string) => new URL(path, world.environment.GATEWAY_URL);
const accounts = async () => (await ask('get', '/api/gateways')).body;
const practise = (path: string, body: object) =>
  fetch(gateway(path), {
    method: 'POST',
    headers: {
      Authorization: `Bearer ${world.environment.GATEWAY_SECRET_KEY}`,
      'Content-Type': 'application/json',
    },
    body: JSON.stringify(body),
  });

test('an account is handed over with PKCE and a state that is checked; its key is kept sealed', async () => {
  const { url } = (await ask('post', '/api/gateways/hand-over')).body;
  const asked = new URL(url).searchParams;
  expect(asked.get('code_challenge_method')).toBe('S256');
  const back = await chooseAccount(url, 'debit-main');
  expect(back.pathname).toBe('/setup/gateways/return');
  const [code, state] = ['code', 'state'].map((name) => back.searchParams.get(name));
  const end = (given: object) => ask('post', '/api/gateways/hand-over/end', { code, state, ...given });

  const other = asking(app, (await signedIn(world, 'owner', 'Another')).cookie);
  expect((await end({ state: 'a state that nobody has begun here' })).status).toBe(410);
  const done = await end({});
  expect(done.status).toBe(201);
  expect((await end({})).status, 'a state works once').toBe(410);
  const debit = (await accounts()).find((one: { id: string }) => one.id === done.body.id);
  expect(debit).toMatchObject({
    account: 'debit-main',
    connectedBy: 'hand-over',
    well: true,
    takesNewCards: false,
  });
  expect(JSON.stringify(await accounts())).not.toContain('secret');
  const stored = await world.almanac.db.rows<{ secret_key: string }>(
    'select secret_key from gateway_accounts',
  );
  for (const { secret_key } of stored) expect(secret_key).toMatch(/^sealed-1\./);

  // Somebody else's hand-over is not ended by this person, and a refusal at the gateway connects nothing.
  const theirs = await chooseAccount((await other('post', '/api/gateways/hand-over')).body.url, 'cards-once');
  const stolen = { code: theirs.searchParams.get('code'), state: theirs.searchParams.get('state') };
  expect((await ask('post', '/api/gateways/hand-over/end', stolen)).status).toBe(410);
  const refused = await chooseAccount((await ask('post', '/api/gateways/hand-over')).body.url, '');
  expect(refused.searchParams.get('error')).toBe('access_denied');
});

test('a code is worth nothing to whoever lacks the verifier', async () => {
  const { url } = (await ask('post', '/api/gateways/hand-over')).body;
  const code = (await chooseAccount(url, 'cards-once')).searchParams.get('code') ?? '';
  const body = new URLSearchParams({
    grant_type: 'authorization_code',
    code,
    redirect_uri: new URL(url).searchParams.get('redirect_uri') ?? '',
    code_verifier: createHash('sha256').update('a guess').digest('base64url'),
  });
  expect((await fetch(gateway('/oauth/token'), { method: 'POST', body })).status).toBe(400);
});

test('a wrong key is told beside the field; an account is connected once', async () => {
  const wrong = await ask('post', '/api/gateways', { key: 'a key that is not theirs' });
  expect(wrong.body.errors[0].pointer).toBe('/key');
  const again = await ask('post', '/api/gateways', { key: world.environment.GATEWAY_SECRET_KEY });
  expect(again.status).toBe(409);
});

test('webhooks go on through a rotation of their secret, and what the gateway changes is known at once', async () => {
  const main = (await accounts()).find((one: { account: string }) => one.account === 'cards-main');
  expect((await ask('post', `/api/gateways/${main.id}/rotate`)).status).toBe(201);
  const [row] = await world.almanac.db.rows<{ webhook_secret: string; earlier_webhook_secret: string }>(
    'select webhook_secret, earlier_webhook_secret from gateway_accounts where id = $id',
    { id: main.id },
  );
  expect(row?.webhook_secret).not.toBe(row?.earlier_webhook_secret);
  const body = new URLSearchParams({ stage: 'asking' });
  await fetch(gateway('/accounts/cards-main'), { method: 'POST', body, redirect: 'manual' });
  const facts = async () => (await accounts()).find((one: { id: string }) => one.id === main.id).facts;
  await until(async () => !(await facts()).mayCharge, 'the gateway to tell');
  expect((await facts()).asks).toHaveLength(1);
  const { lines } = (await ask('get', '/api/readiness')).body;
  expect(lines.find(({ key }: { key: string }) => key === 'gateway-GBP').why).toMatch(/may not charge yet/);
  await fetch(gateway('/accounts/cards-main'), {
    method: 'POST',
    body: new URLSearchParams({ stage: 'ready' }),
    redirect: 'manual',
  });
  await until(async () => (await facts()).mayPayOut, 'the gateway to tell again');
});

test('a dispute and a payout that the gateway tells of reach the day sheet and staff', async () => {
  await world.enrol([{}]);
  await world.turnTo('2027-01-05');
  const [charge] = await world.chargesAtGateway();
  const dispute = {
    key: charge?.idempotencyKey,
    answerBy: '2027-01-20',
    says: 'It was not me.',
    amount: '1000',
    currency: 'GBP',
  };
  await practise('/practice/happenings', { type: 'money.disputed', data: dispute });
  const payout = { reference: 'P-1', arrivesOn: '2027-01-12', amount: '980', currency: 'GBP' };
  await practise('/practice/happenings', { type: 'payout.sent', data: payout });
  const told = () =>
    world.almanac.db.rows<{ kind: string }>(
      `select kind from staff_letters where kind in ('dispute', 'payout arrived')`,
    );
  await until(async () => (await told()).length === 4, 'both owners to be told of both');
  const { needs } = (await ask('get', '/api/days/2027-01-05')).body;
  expect(needs.find(({ kind }: { kind: string }) => kind === 'payment disputed').says).toContain(
    'Wed 20 Jan 2027',
  );
});

test('a gateway that does not answer is noted, staff are told once, and again when it answers', async () => {
  await world.misbehave({ down: true });
  await testConnections(world.almanac);
  await testConnections(world.almanac);
  expect((await accounts()).map(({ well }: { well: boolean }) => well)).not.toContain(true);
  await world.misbehave({ down: false });
  await testConnections(world.almanac);
  const told = await world.almanac.db.rows<{ subject: string }>(
    `select distinct subject from staff_letters where kind = 'gateway down' order by 1`,
  );
  expect(told.map(({ subject }) => subject)).toEqual([
    'Sample business, bank debit answers again',
    'Sample business, bank debit does not answer',
    'Sample business, cards answers again',
    'Sample business, cards does not answer',
  ]);
});

test('the card reader shows an amount, and what comes of it', async () => {
  const main = (await accounts()).find((one: { account: string }) => one.account === 'cards-main');
  const put = (await ask('post', `/api/gateways/${main.id}/reader`)).body;
  const page = await (await fetch(gateway('/reader/cards-main'))).text();
  expect(page).toContain('GBP 100');
  await fetch(gateway('/reader/cards-main'), {
    method: 'POST',
    body: new URLSearchParams({ ask: put.id, code: '51' }),
    redirect: 'manual',
  });
  expect((await ask('get', `/api/gateways/${main.id}/reader/${put.id}`)).body).toMatchObject({
    state: 'declined',
    code: '51',
  });
});

test('disconnecting says what would stop; then charges wait, nobody is written to, and all goes on after', async () => {
  const main = (await accounts()).find((one: { account: string }) => one.account === 'cards-main');
  expect((await ask('get', `/api/gateways/${main.id}/stops`)).body).toMatchObject({
    cards: 1,
    subscriptions: 1,
  });
  const stop = { version: main.version };
  expect((await ask('post', `/api/gateways/${main.id}/disconnect`, stop)).status).toBe(201);
  expect((await ask('post', `/api/gateways/${main.id}/disconnect`, stop)).status).toBe(404);
  const letters = async () =>
    (await world.almanac.db.row<{ n: number }>('select count(*)::int as n from letters'))?.n;
  const before = await letters();
  await world.turnTo('2027-02-10');
  expect(await letters()).toBe(before);
  expect(await world.chargesAtGateway()).toEqual([]);
  const { lines } = (await ask('get', '/api/readiness')).body;
  expect(lines.map(({ key }: { key: string }) => key)).toContain('gateway-lost');
  const cases = await world.almanac.db.rows('select 1 from recovery_cases');
  expect(cases).toEqual([]);
  expect((await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0)).toEqual([]);

  const again = await ask('post', '/api/gateways', { key: world.environment.GATEWAY_SECRET_KEY });
  expect(again.body.id, 'the same account, with its cards').toBe(main.id);
  await world.turnTo('2027-02-11');
  expect((await world.chargesAtGateway()).map(({ state }) => state)).toEqual(['collected', 'collected']);
  expect((await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0)).toEqual([]);
});
