import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { lettersWhere } from '../../testing/letters.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { collectDebts, takeNewMethod } from '../recovery/newMethod.ts';
import { markSeenTo } from '../run/needs.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { verify } from '../verify/verify.ts';
import { askGateway } from './askGateway.ts';
import { Attempt } from './Attempt.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
beforeEach(() => world.misbehave({}));
afterAll(async () => {
  await world.misbehave({});
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

/** So that what one test enrols is not renewed in another. */
const YEARLY = { interval: 'P1Y' };

const today = () => offering.today();
/** Turns so many days. */
const turn = async (days: number) => world.turnTo(formatDay(toDay(await today()) + days));
const attemptsOf = (id: string) =>
  world.almanac.db.rows<{ state: string; key: string }>(
    `select a.state, a.idempotency_key as key from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $id order by a.id`,
    { id },
  );
const statesOf = async (id: string) => (await attemptsOf(id)).map(({ state }) => state);
const lettersOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ event: string }>(
      `select event from letters where subscription_id = $id and event <> 'started' order by id`,
      { id },
    )
  ).map(({ event }) => event);
const casesOf = (id: string) =>
  world.almanac.db.rows('select state from recovery_cases where subscription_id = $id', { id });
const openNeeds = async () =>
  (
    await world.almanac.db.rows<{ kind: string }>(
      'select kind from needs where settled_on is null order by id',
    )
  ).map(({ kind }) => kind);

/** What the gateway stand-in wrote down of its charges, in its own file. */
function charged(key: string): { statementText: string; date: string; token: string }[] {
  const lines = readFileSync(world.environment.GATEWAY_FILE ?? '', 'utf8')
    .trim()
    .split('\n');
  return lines
    .map((line) => (JSON.parse(line) as { charge?: { key: string } }).charge)
    .filter((charge) => charge?.key === key) as never;
}

describe('an answer that is no word about the card', () => {
  test.each([
    { status: 401, what: 'our key is refused' },
    { status: 403, what: 'the account may not charge' },
    { status: 429, what: 'we ask too fast' },
    { status: 503, what: 'the gateway is away' },
    { status: 500, what: 'the gateway fails' },
    { status: 404, page: true, what: 'a proxy between answers for it' },
    { status: 413, page: true, what: 'a proxy finds it too large' },
    { status: 401, charged: true, page: false, what: 'it was charged, and our key is refused' },
    { status: 502, charged: true, page: true, what: 'it was charged, and a proxy lost the answer' },
  ])('$what ($status): nobody is declined or written to, and it is charged once', async (fault) => {
    const { what: _, ...answer } = fault;
    const [id = ''] = await world.enrol([{}], YEARLY);
    await world.misbehave({ chargesAnswer: answer });
    await turn(4);
    expect(new Set(await statesOf(id))).not.toContain('declined');
    expect(await casesOf(id)).toEqual([]);
    expect((await lettersOf(id)).filter((event) => event !== 'receipt')).toEqual([]);
    await world.misbehave({});
    await turn(1);
    expect(await statesOf(id)).toEqual(['collected']);
    expect(await lettersOf(id)).toEqual(['receipt']);
    const [attempt] = await attemptsOf(id);
    expect(charged(attempt?.key ?? '')).toHaveLength(1);
    expect(await openNeeds()).toEqual([]);
  });

  test('staff are told once of an account in trouble, however many charges wait and days pass', async () => {
    const ids = await world.enrol([{}, {}, {}, {}, {}, {}], YEARLY);
    await world.misbehave({ down: true });
    await turn(3);
    const needs = (await openNeeds()).filter((kind) => kind === 'gateway in trouble');
    expect(needs).toEqual(['gateway in trouble']);
    await world.misbehave({});
    await turn(1);
    expect(await openNeeds()).toEqual([]);
    for (const id of ids) expect(await statesOf(id)).toEqual(['collected']);
  });
});

test('a charge that was refused as it was asked is a matter of a person, not of the customer', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  await world.misbehave({ chargesAnswer: { status: 422 } });
  await turn(12);
  expect(await statesOf(id)).toEqual(['refused']);
  expect(await casesOf(id)).toEqual([]);
  expect(await lettersOf(id)).toEqual([]);
  expect(await openNeeds()).toEqual(['charge refused']);
  const need = await world.almanac.db.row<{ id: string }>('select id from needs where settled_on is null');
  await world.misbehave({});
  await turn(1);
  expect(await statesOf(id), 'it waits until it is seen to').toEqual(['refused']);
  await markSeenTo(world.almanac, need?.id ?? '', await today());
  await turn(1);
  expect(await statesOf(id)).toEqual(['refused', 'collected']);
  const keys = (await attemptsOf(id)).map(({ key }) => key);
  expect(new Set(keys).size).toBe(2);
});

test('a key is sent again with the very same request, whatever was set meanwhile', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  const begun = await today();
  await world.misbehave({ chargesAnswer: { status: 500 } });
  await turn(1);
  await Business.update({ statementText: 'ANOTHER NAME' }, { where: {} });
  await world.misbehave({});
  await turn(2);
  await Business.update({ statementText: 'FENMARSH HIVES' }, { where: {} });
  const [attempt] = await attemptsOf(id);
  expect(attempt?.state).toBe('collected');
  expect(charged(attempt?.key ?? '')).toMatchObject([{ statementText: 'FENMARSH HIVES', date: begun }]);
  const receipts = `l.subscription_id = $id and l.event = 'receipt'`;
  const [receipt] = await lettersWhere(world.almanac, receipts, { id });
  expect(receipt?.plain).toContain('It will show as "FENMARSH HIVES"');
});

test('one account that is in trouble stops no other', async () => {
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '9.00' } }];
  const abroad = await handOver(offering.ask, 'cards-abroad');
  const [home = ''] = await world.enrol([{}], YEARLY);
  const { rateId } = await offering.plan(
    { name: 'Abroad' },
    { lines, currency: 'EUR' },
    { gateways: [abroad] },
  );
  const moved = await fetch(new URL('/v1/moved-cards', world.environment.GATEWAY_URL), {
    method: 'POST',
    headers: { Authorization: `Bearer ${keyAbroad()}`, 'Content-Type': 'application/json' },
    body: JSON.stringify([
      {
        token: 'card-abroad-1',
        network: 'Larkfield',
        lastFour: '4242',
        expiresYear: 2031,
        expiresMonth: 5,
        behaviour: {},
      },
    ]),
  });
  expect(moved.status).toBe(201);
  const id = await offering.enrolled(rateId, { cardToken: 'card-abroad-1' }, false);
  // Its key is revoked there: what it keeps waits, and the account at home goes on.
  await fetch(new URL('/oauth/revoke', world.environment.GATEWAY_URL), {
    method: 'POST',
    body: new URLSearchParams({ token: revocable() }),
  });
  await turn(2);
  expect(await statesOf(home)).toEqual(['collected']);
  expect(await statesOf(id)).toEqual(['under way']);
  expect(await casesOf(id)).toEqual([]);
  await world.almanac.db.rows(
    `update gateway_accounts set disconnected_on = business_date from business where account = 'cards-abroad'`,
  );
  await handOver(offering.ask, 'cards-abroad');
  await turn(1);
  expect(await statesOf(id)).toEqual(['collected']);
  expect(await openNeeds()).toEqual([]);
});

/** Keys of the account abroad, as the gateway's own file has them. */
function abroadInFile(): { secretKey: string; tokens: string[] } {
  const lines = readFileSync(world.environment.GATEWAY_FILE ?? '', 'utf8')
    .trim()
    .split('\n');
  return lines
    .map((line) => (JSON.parse(line) as { account?: { account: string } }).account)
    .findLast((account) => account?.account === 'cards-abroad') as never;
}
const keyAbroad = () => abroadInFile().secretKey;
const revocable = () => abroadInFile().tokens.at(-1) ?? '';

test('what waits for a card that is replaced never charges the old one', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  await world.misbehave({ chargesAnswer: { status: 503 } });
  await turn(2);
  expect(await statesOf(id)).toEqual(['under way']);
  await world.misbehave({});
  await world.moveCards([{ token: 'card-in-its-place', behaviour: {} }]);
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const taken = await takeNewMethod(world.almanac, {
    customerId,
    token: 'card-in-its-place',
    channel: 'staff',
  });
  expect(taken.charged.map(({ outcome }) => outcome)).toEqual(['collected']);
  await turn(1);
  expect(await statesOf(id)).toEqual(['withdrawn', 'collected']);
  const [old, fresh] = await attemptsOf(id);
  expect(charged(old?.key ?? '')).toEqual([]);
  expect(charged(fresh?.key ?? '')).toMatchObject([{ token: 'card-in-its-place' }]);
});

test('an attempt that is given up for a newer card while another process is about to send it is not sent', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  await world.misbehave({ chargesAnswer: { status: 503 } });
  await turn(1);
  await world.misbehave({});
  // As that process read it, a moment before the card was replaced.
  const read = await Attempt.findOne({ order: [['id', 'desc']], rejectOnEmpty: true });
  expect(read).toMatchObject({ state: 'under way', sentAt: null });
  await Attempt.update({ state: 'withdrawn' }, { where: { id: read.id } });
  expect(await askGateway(world.almanac, read, await today())).toBe('withdrawn');
  expect(charged(read.idempotencyKey)).toEqual([]);
  await turn(1);
  expect(await statesOf(id)).toEqual(['withdrawn', 'collected']);
});

test('what a customer pays in spite of a refused charge is off the day sheet', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  await world.misbehave({ chargesAnswer: { status: 422 } });
  await turn(2);
  await world.misbehave({});
  expect(await openNeeds()).toEqual(['charge refused']);
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const by = { customerId, channel: 'customer' } as const;
  const paid = await collectDebts(world.almanac, by, 'own page', await today(), 'by the customer');
  expect(paid.map(({ outcome }) => outcome)).toEqual(['collected']);
  expect(await openNeeds()).toEqual([]);
});

test('what was sent before its card was replaced is asked for, and charged no second time', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  await world.misbehave({ chargesAnswer: { status: 500, charged: true } });
  await turn(1);
  await world.misbehave({});
  await world.moveCards([{ token: 'card-after-the-fact', behaviour: {} }]);
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  await takeNewMethod(world.almanac, { customerId, token: 'card-after-the-fact', channel: 'staff' });
  await turn(1);
  expect(await statesOf(id)).toEqual(['collected']);
});

test('the first real charge after a trial is marked in the text on the bank statement, and no other', async () => {
  const [id = ''] = await world.enrol([{}], { interval: 'P1M', trial: { length: 'P3D' } });
  await turn(45);
  const texts = (await attemptsOf(id)).map(({ key }) => charged(key)[0]?.statementText);
  expect(texts).toEqual(['FENMARSH HI TRIAL OVER', 'FENMARSH HIVES']);
  expect(texts[0]?.length).toBeLessThanOrEqual(22);
});
