import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isValidIBAN } from 'ibantools';
import request from 'supertest';
import { beforeEach, expect, test } from 'vitest';
import { gatewayApp } from './app.ts';
import { answeredOn, PRACTICE_ACCOUNTS } from './bankAccounts.ts';
import { Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const DEBITS = 'the-secret-key-of-debits';
const CARDS = 'the-secret-key-of-cards';
let file: string;
let told: string[];
const webhooks = {
  send: (account: string, type: string, charge: { key: string }) =>
    void told.push(`${account} ${type} ${charge.key}`),
} as unknown as WebhookSender;
const vault = () => new Vault(file, { secret: CARDS, debitSecret: DEBITS });
const open = () => gatewayApp(vault(), webhooks);

beforeEach(() => {
  file = join(mkdtempSync(join(tmpdir(), 'gateway-')), 'record.jsonl');
  told = [];
});

type App = ReturnType<typeof open>;
const give = (app: App, iban: string, holder = 'Ada Ashgrove') =>
  request(app)
    .post('/v1/bank-accounts')
    .set('Authorization', `Bearer ${vault().accounts.get('debit-main')?.publicKey}`)
    .send({ iban, holder });
const debit = (app: App, key: string, token: string, date = '2027-01-04', secret = DEBITS) =>
  request(app)
    .post('/v1/charges')
    .set({ Authorization: `Bearer ${secret}`, 'Idempotency-Key': key })
    .send({
      ...{ token, date, amount: '1000', currency: 'GBP', statementText: 'FENMARSH' },
      ...{ reference: 'invoice 1', channel: 'staff' },
    });
const asked = async (app: App, key: string, on?: string) => {
  const answer = await request(app)
    .get(`/v1/charges?key=${key}${on === undefined ? '' : `&on=${on}`}`)
    .set('Authorization', `Bearer ${DEBITS}`);
  return answer.body.charges[0] as Record<string, string> | undefined;
};
const tokenOf = async (app: App, description: RegExp) => {
  const iban = PRACTICE_ACCOUNTS.find((one) => description.test(one.description))?.iban ?? '';
  return ((await give(app, iban)).body as { token: string }).token;
};

test('practice accounts are valid by ISO 13616; with any two neighbouring signs swapped they are refused', async () => {
  const app = open();
  for (const { iban } of PRACTICE_ACCOUNTS) {
    expect(isValidIBAN(iban)).toBe(true);
    const at = [...iban].findIndex((sign, i) => i > 3 && iban[i + 1] !== undefined && iban[i + 1] !== sign);
    const swapped = `${iban.slice(0, at)}${iban[at + 1]}${iban[at]}${iban.slice(at + 2)}`;
    expect((await give(app, swapped)).body).toMatchObject({ status: 422, field: 'iban' });
  }
  // As it is printed, and as it is typed.
  expect((await give(app, 'gb44 tarn 0001 0100 0000 01')).status).toBe(201);
  expect((await give(app, 'GB44-TARN-0001-0100-0000-01')).status).toBe(201);
  expect((await give(app, 'GB44TARN00010100000001', '  ')).body).toMatchObject({ field: 'holder' });
});

test.each([
  ['a Monday', '2027-01-04', '2027-01-07'],
  ['a Wednesday, over the weekend', '2027-01-06', '2027-01-11'],
  ['a Friday', '2027-01-08', '2027-01-13'],
  ['a Saturday', '2027-01-09', '2027-01-13'],
  ['the end of a leap February', '2028-02-28', '2028-03-02'],
])('what is submitted on %s is answered three banking days later', (_, on, answered) => {
  expect(answeredOn(on)).toBe(answered);
});

test('a debit is submitted, told of once it is answered, and remembered by a stand-in that was stopped meanwhile', async () => {
  const app = open();
  const token = await tokenOf(app, /Pays every debit/);
  const made = await debit(app, 'key-1', token);
  expect([made.status, made.body]).toMatchObject([
    202,
    { state: 'submitted', code: '', expectedOn: '2027-01-07' },
  ]);
  expect((await debit(open(), 'key-1', token)).body).toEqual(made.body);
  expect((await debit(app, 'key-1', token, '2027-01-05')).status).toBe(422);
  // It has no clock of its own: until somebody tells the day, nothing is answered.
  expect(await asked(open(), 'key-1')).toMatchObject({ state: 'submitted' });
  expect(await asked(open(), 'key-1', '2027-01-06')).toMatchObject({ state: 'submitted' });
  expect(told).toEqual([]);
  const again = open();
  const answered = await asked(again, 'key-1', '2027-01-07');
  expect(answered).toMatchObject({ id: (made.body as { id: string }).id, state: 'collected', code: '00' });
  expect(answered).not.toHaveProperty('expectedOn');
  expect(await asked(open(), 'key-1', '2027-01-20')).toEqual(answered);
  expect(told).toEqual(['debit-main money.collected key-1']);
  expect(vault().chargesOf('debit-main')).toHaveLength(1);
});

test('accounts behave as they are described', async () => {
  const app = open();
  const poor = await tokenOf(app, /Returns the first debit/);
  const closed = await tokenOf(app, /closed/);
  await debit(app, 'first', poor);
  await debit(app, 'closed', closed);
  // Another request on a later day tells the day, too.
  await debit(app, 'second', poor, '2027-01-11');
  expect(await asked(app, 'first')).toMatchObject({ state: 'declined', code: 'AM04' });
  expect(await asked(app, 'closed')).toMatchObject({ state: 'declined', code: 'AC04' });
  expect(await asked(app, 'second', '2027-01-14')).toMatchObject({ state: 'collected' });
  expect(told).toEqual([
    'debit-main money.declined first',
    'debit-main money.declined closed',
    'debit-main money.collected second',
  ]);
});

test('an account is its holder’s alone, is no card, and its number is not kept', async () => {
  const app = open();
  const token = await tokenOf(app, /Pays every debit/);
  expect((await debit(app, 'theirs', token, '2027-01-04', CARDS)).status).toBe(404);
  const as = (secret: string) => ({ Authorization: `Bearer ${secret}` });
  const at = (path: string, secret: string) => request(app).get(path).set(as(secret));
  expect((await at(`/v1/bank-accounts/${token}`, DEBITS)).body).toEqual({
    ...{ token, lastFour: '0001', holder: 'Ada Ashgrove' },
  });
  expect((await at(`/v1/bank-accounts/${token}`, CARDS)).status).toBe(404);
  expect((await at(`/v1/cards/${token}`, DEBITS)).status).toBe(404);
  const check = request(app).post(`/v1/cards/${token}/checks`).set(as(DEBITS)).send({ date: '2027-01-04' });
  expect((await check).status).toBe(404);
  const expiry = { expiresYear: 2031, expiresMonth: 5 };
  expect((await request(app).put(`/v1/cards/${token}/expiry`).set(as(DEBITS)).send(expiry)).status).toBe(404);
  expect(JSON.stringify([...vault().cards.values()])).not.toContain('TARN');
});
