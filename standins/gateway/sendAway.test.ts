import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { beforeEach, expect, test } from 'vitest';
import { gatewayApp } from './app.ts';
import { Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const [CARDS, DEBITS] = ['the-secret-key-of-cards', 'the-secret-key-of-debits'];
let app: ReturnType<typeof gatewayApp>;
let told: string[];

beforeEach(() => {
  told = [];
  const webhooks = {
    send: (_: string, type: string, { key }: { key: string }) => void told.push(`${type} ${key}`),
  };
  const file = join(mkdtempSync(join(tmpdir(), 'gateway-')), 'record.jsonl');
  const vault = new Vault(file, { secret: CARDS, debitSecret: DEBITS });
  app = gatewayApp(vault, webhooks as unknown as WebhookSender);
});

const inMinutes = (minutes: number) => new Date(Date.now() + minutes * 60_000).toISOString();
const begin = (key: string, more: object = {}, secret = CARDS) =>
  request(app)
    .post('/v1/send-aways')
    .set({ Authorization: `Bearer ${secret}`, 'Idempotency-Key': key })
    .send({
      ...{ amount: '1200', currency: 'GBP', statementText: 'FENMARSH', reference: 'invoice <1>' },
      ...{ date: '2027-01-04', returnUrl: 'http://shop.example/back', expiresAt: inMinutes(30) },
      ...more,
    });
const isOpen = async (key: string) =>
  (await request(app).get(`/v1/send-aways/${key}`).set('Authorization', `Bearer ${CARDS}`)).body
    .open as boolean;
const choose = (url: string, what: string) =>
  request(app).post(new URL(url).pathname).type('form').send({ what });
const charges = async () =>
  (await request(app).get('/v1/charges').set('Authorization', `Bearer ${CARDS}`)).body.charges as {
    key: string;
    state: string;
  }[];

test('a payer pays once at the page, whatever is pressed twice; asked again under its key it is the same page, and over', async () => {
  const { body } = await begin('one');
  expect(body.open).toBe(true);
  const { pathname } = new URL(body.url as string);
  expect(new URL((await begin('one')).body.url as string).pathname).toBe(pathname);
  const page = await request(app).get(new URL(body.url as string).pathname);
  expect(page.text).toContain('£12.00');
  expect(page.text).toContain('invoice &#60;1&#62;');
  const paid = await Promise.all([choose(body.url as string, 'pay'), choose(body.url as string, 'pay')]);
  expect(paid.map(({ status }) => status)).toEqual([303, 303]);
  expect(await charges()).toMatchObject([{ key: 'one', state: 'collected' }]);
  expect(told).toEqual(['money.collected one']);
  expect([(await begin('one')).body.open, await isOpen('one')]).toEqual([false, false]);
  expect((await request(app).get(new URL(body.url as string).pathname)).text).toContain(
    'This payment is over',
  );
});

test('who leaves, or whose time is over, has paid nothing and never will; what the bank turns down is a charge that was declined', async () => {
  const left = (await begin('left')).body.url as string;
  expect((await choose(left, 'leave')).headers.location).toBe('http://shop.example/back');
  const late = (await begin('late', { expiresAt: inMinutes(-1) })).body as { url: string; open: boolean };
  expect(late.open).toBe(false);
  for (const url of [left, late.url])
    expect((await choose(url, 'pay')).headers.location).toMatch(/^\/send-away\//);
  expect([await isOpen('left'), await isOpen('late'), await charges()]).toEqual([false, false, []]);
  await choose((await begin('poor')).body.url as string, 'short');
  expect(await charges()).toMatchObject([{ key: 'poor', state: 'declined' }]);
  expect((await choose((await begin('odd')).body.url as string, 'steal')).status).toBe(404);
});

test('an account that takes none, a currency it has not, and an address that is none are refused', async () => {
  expect((await begin('k', {}, DEBITS)).status).toBe(409);
  expect((await begin('k', {}, 'nobody')).status).toBe(401);
  expect((await begin('k', { currency: 'SEK' })).status).toBe(422);
  expect((await begin('k', { returnUrl: 'javascript:alert(1)' })).status).toBe(422);
  const missing = await request(app).get('/v1/send-aways/nothing').set('Authorization', `Bearer ${CARDS}`);
  expect(missing.status).toBe(404);
});
