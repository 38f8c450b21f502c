import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { expect, test } from 'vitest';
import { gatewayApp } from './app.ts';
import { PRACTICE_CARDS, passesLuhn } from './practiceCards.ts';
import { Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const keys = { secret: 'the-secret-key', public: 'the-public-key' };
const file = join(mkdtempSync(join(tmpdir(), 'gateway-')), 'record.jsonl');
const sent: string[] = [];
const webhooks = {
  send: (_account: string, _type: string, charge: { key: string }) => void sent.push(charge.key),
} as unknown as WebhookSender;
const open = () => gatewayApp(new Vault(file, keys), webhooks);
const charge = (app: ReturnType<typeof open>, key: string, token: string, date = '2027-01-04') =>
  request(app)
    .post('/v1/charges')
    .set({ Authorization: `Bearer ${keys.secret}`, 'Idempotency-Key': key })
    .send({
      token,
      amount: '1000',
      currency: 'GBP',
      statementText: 'FENMARSH',
      reference: 'invoice 1',
      channel: 'import',
      date,
    });
const tokenise = async (app: ReturnType<typeof open>, number: string) =>
  (
    await request(app)
      .post('/v1/cards')
      .set('Authorization', `Bearer ${keys.public}`)
      .send({ number, expiresMonth: 5, expiresYear: 2031 })
  ).body as { token: string };

test('practice cards start with 9 and are valid by the Luhn check; one digit off is refused', () => {
  for (const { number } of PRACTICE_CARDS) {
    expect(number).toMatch(/^9/);
    expect(passesLuhn(number)).toBe(true);
    const off = `${number.slice(0, -1)}${(Number(number.at(-1)) + 1) % 10}`;
    expect(passesLuhn(off)).toBe(false);
  }
});

test('a key charges once, also after the stand-in was stopped and started; the record keeps no card number', async () => {
  const app = open();
  const { token } = await tokenise(app, PRACTICE_CARDS[0]?.number ?? '');
  const first = await charge(app, 'key-1', token);
  expect(first.status).toBe(201);
  const again = await charge(open(), 'key-1', token);
  expect(again.body).toEqual(first.body);
  expect(sent.filter((key) => key === 'key-1')).toHaveLength(1);
  const record = new Vault(file, keys);
  expect(record.chargesOf('cards-main')).toHaveLength(1);
  expect(JSON.stringify([...record.cards.values()])).not.toContain(PRACTICE_CARDS[0]?.number);
});

test('cards behave as they are described', async () => {
  const app = open();
  const codes = async (description: RegExp, dates: readonly string[]) => {
    const { token } = await tokenise(
      app,
      PRACTICE_CARDS.find((card) => description.test(card.description))?.number ?? '',
    );
    const answers = [];
    for (const date of dates)
      answers.push(
        ((await charge(app, `${token}-${date}-${answers.length}`, token, date)).body as { code: string })
          .code,
      );
    return answers;
  };
  const twice = ['2027-01-04', '2027-01-04', '2027-01-05'];
  expect(await codes(/first 2 tries/, twice)).toEqual(['51', '51', '00']);
  expect(await codes(/away today/, twice)).toEqual(['91', '91', '00']);
  expect(await codes(/reported lost/, twice)).toEqual(['41', '41', '41']);
});

test('the secret key is asked for, and the public key takes cards alone', async () => {
  const app = open();
  expect((await request(app).get('/v1/charges')).status).toBe(401);
  expect((await request(app).get('/v1/charges').set('Authorization', `Bearer ${keys.public}`)).status).toBe(
    401,
  );
  expect((await request(app).post('/v1/cards').send({})).status).toBe(401);
});
