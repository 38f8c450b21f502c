import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../testing/offering.ts';
import { World } from '../testing/world.ts';
import type { CustomerRow } from './customers/messages.ts';
import type { Found } from './http/find.ts';
import type { Page } from './http/list.ts';
import type { MoveEffect, PlanView, RateSubscriber } from './plans/messages.ts';
import type { TurnedPages } from './run/messages.ts';
import type { SubscriptionRow, SubscriptionView } from './subscriptions/messages.ts';
import { verify } from './verify/verify.ts';

let world: World;
let offering: Offering;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const flat = (amount: string, more: object = {}) => ({
  lines: [{ name: 'Row', price: { scheme: 'flat', amount } }],
  ...more,
});

test('those on an earlier version of a rate are listed, and moved later, each with a letter before', async () => {
  const { planId, rateId } = await offering.plan({ name: 'Moved later' }, flat('10.00'));
  const ids = [
    await offering.enrolled(rateId),
    await offering.enrolled(rateId),
    await offering.enrolled(rateId),
  ];
  await world.turnTo(await offering.later(2));
  const rateNow = async () => {
    const { rates } = await offering.done<PlanView>('get', `/api/plans/${planId}`);
    const [rate] = rates;
    if (!rate) throw new Error('The plan has no rate.');
    return rate;
  };
  const before = await rateNow();
  const terms = { currency: 'GBP', interval: 'P1M', ...flat('15.00') };
  const value = { name: 'Only', terms, taxChoice: before.taxChoice, options: before.options };
  const edit = { version: 1, value, subscribers: { kind: 'stay' } };
  await offering.done('put', `/api/rates/${rateId}`, edit);
  expect((await rateNow()).behind).toBe(3);
  const newest = await offering.enrolled(rateId);
  const listed = async (state = '') =>
    (await offering.done<Page<RateSubscriber>>('get', `/api/rates/${rateId}/subscribers?state=${state}`))
      .rows;
  expect((await listed()).map(({ version }) => version).toSorted()).toEqual([1, 1, 1, 2]);
  expect(await listed('version 2')).toMatchObject([{ id: newest, movesTo: null }]);

  const move = { version: 2, subscribers: { kind: 'renewal', letterDays: 10 } };
  const stale = await offering.ask('post', `/api/rates/${rateId}/moves`, { ...move, version: 1 });
  expect(stale.status, 'of a version that is not the newest').toBe(409);
  const effect = await offering.done<MoveEffect>('post', `/api/rates/${rateId}/moves/effect`, move);
  expect(effect.sums).toEqual([{ currency: 'GBP', before: '3000', after: '4500' }]);
  expect(
    (await listed()).every(({ movesOn }) => movesOn === null),
    'looking moves nobody',
  ).toBe(true);
  await offering.done('post', `/api/rates/${rateId}/moves`, move);
  expect((await rateNow()).behind).toBe(0);
  const again = await offering.ask('post', `/api/rates/${rateId}/moves`, move);
  expect(again.status, 'nobody is moved twice').toBe(422);
  await world.turnTo(await offering.later(45));
  for (const id of ids) {
    expect((await offering.invoiced(id)).map((one) => one.split(' ')[1])).toEqual(['1000', '1500']);
    const letters = await world.almanac.db.row<{ n: number }>(
      `select count(*)::int as n from letters where subscription_id = $id and event = 'terms changing'`,
      { id },
    );
    expect(letters?.n).toBe(1);
  }
});

test('what is exactly it is found first: an invoice by its number before a customer whose number holds it', async () => {
  const { rateId } = await offering.plan({ name: 'Found' }, flat('19.84'));
  const id = await offering.enrolled(rateId);
  await world.turnTo(await offering.later(1));
  const { invoices, customerId } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  const number = invoices[0]?.number ?? '';
  await world.almanac.db.rows(`update customers set reference = $reference where id = $customerId`, {
    reference: `FH-${number}`,
    customerId,
  });
  const find = (text: string) => offering.done<Found[]>('get', `/api/find?text=${encodeURIComponent(text)}`);
  const [first, ...others] = await find(number);
  expect(first).toMatchObject({ kind: 'invoice', says: `Invoice ${number}`, exactly: 'number' });
  expect(others).toContainEqual(expect.objectContaining({ kind: 'customer', exactly: null }));
  expect((await find(`fh-${number}`))[0]).toMatchObject({ kind: 'customer', exactly: 'number' });
  expect((await find('19.84'))[0]).toMatchObject({ kind: 'invoice', exactly: 'amount' });
  expect((await find('£19.84'))[0]).toMatchObject({ exactly: 'amount' });
  expect((await find('found'))[0]).toMatchObject({ kind: 'plan', exactly: 'name' });
  expect(await find(`%_\\`)).toEqual([]);
});

test('a last day is given for one subscription alone: it is served and charged to that day', async () => {
  const { rateId } = await offering.plan({ name: 'Short' }, flat('31.00'));
  const start = await offering.today();
  const lastDay = await offering.later(40);
  const id = await offering.enrolled(rateId, { lastDay });
  const other = await offering.enrolled(rateId);
  const finite = await offering.plan({ name: 'Finite' }, flat('10.00', { ends: { after: 3 } }));
  const refused = await offering.enrol(finite.rateId, { lastDay });
  expect([refused.status, refused.body.errors[0].pointer]).toEqual([422, '/lastDay']);
  const early = await offering.enrol(rateId, { lastDay: '2020-01-01' });
  expect(early.body.errors[0].pointer).toBe('/lastDay');
  const ending = await offering.done<Page<SubscriptionRow>>(
    'get',
    `/api/subscriptions?dated=ends&from=${lastDay}&until=${await offering.later(41)}`,
  );
  expect(ending.rows.map((row) => row.id)).toEqual([id]);
  await world.turnTo(await offering.later(75));
  const mine = await offering.invoiced(id);
  expect(mine[0]).toBe(`${start} 3100`);
  expect(mine, 'a full period and the days of the next').toHaveLength(2);
  expect(Number(mine[1]?.split(' ')[1])).toBeLessThan(1500);
  expect((await offering.invoiced(other)).length).toBeGreaterThan(2);
  const { state } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  expect(state).toBe('ended');
});

test('subscriptions are asked for by date: trials that end in a week, what is overdue since', async () => {
  const trial = { trial: { length: 'P5D' } };
  const { rateId } = await offering.plan({ name: 'Tried' }, flat('10.00', trial));
  const id = await offering.enrolled(rateId);
  await world.turnTo(await offering.later(1));
  const asked = async (dated: string, from: string, until: string) =>
    (
      await offering.done<Page<SubscriptionRow>>(
        'get',
        `/api/subscriptions?dated=${dated}&from=${from}&until=${until}`,
      )
    ).rows;
  const today = await offering.today();
  expect((await asked('trial', today, await offering.later(6))).map((row) => row.id)).toEqual([id]);
  expect(await asked('trial', await offering.later(7), '')).toEqual([]);
  const hand = await offering.plan({ name: 'By hand' }, flat('10.00'), { methods: ['invoice'] });
  const owes = await offering.enrolled(hand.rateId, { pays: 'invoice' }, false);
  await world.turnTo(await offering.later(45));
  expect((await asked('overdue', '', await offering.today())).map((row) => row.id)).toContain(owes);
  expect((await offering.ask('get', '/api/subscriptions?dated=ends&from=soon')).status, 'no date').toBe(422);
});

test('after pages are turned it is said what happened on them', async () => {
  const { rateId } = await offering.plan({ name: 'Turned' }, flat('12.00'));
  const from = await offering.today();
  await offering.enrolled(rateId);
  await world.turnTo(await offering.later(1));
  const to = await offering.today();
  const turned = await offering.done<TurnedPages>('get', `/api/turned?from=${from}&to=${to}`);
  expect(turned).toMatchObject({ started: 1, lapsed: 0 });
  const paid = await world.almanac.db.row<{ sum: string; n: number }>(
    `select coalesce(sum(amount), 0)::text as sum, count(*)::int as n from payments
     where paid_on = $from and currency = 'GBP'`,
    { from },
  );
  expect(turned.sums.find(({ currency }) => currency === 'GBP')).toMatchObject({
    collected: paid?.sum,
    inCount: paid?.n,
  });
});

test('a card that has expired is refused by the server, whatever the gateway says of it', async () => {
  const { rateId } = await offering.plan({ name: 'Carded' }, flat('10.00'));
  const token = 'card-that-is-over';
  const today = await offering.today();
  const [year = 0, month = 0] = today.split('-').map(Number);
  const over =
    month === 1
      ? { expiresYear: year - 1, expiresMonth: 12 }
      : { expiresYear: year, expiresMonth: month - 1 };
  const good = { expiresYear: year, expiresMonth: month };
  await world.moveCards([
    { token, behaviour: {}, ...over },
    { token: 'card-of-this-month', behaviour: {}, ...good },
  ]);
  const refused = await offering.enrol(rateId, { cardToken: token });
  expect([refused.status, refused.body.errors[0].pointer]).toEqual([422, '/cardToken/expires']);
  const { rows } = await offering.done<Page<CustomerRow>>('get', '/api/customers?search=P');
  expect(rows.length).toBeGreaterThan(0);
  const taken = await offering.enrol(rateId, { cardToken: 'card-of-this-month' });
  expect(taken.status, 'it is good through its month').toBe(201);
});

test('each command says in a sentence what it needs', () => {
  const folder = mkdtempSync(join(tmpdir(), 'almanac-desk-'));
  const file = join(folder, 'business.json');
  writeFileSync(file, JSON.stringify({ name: 'Fenmarsh Hives' }));
  const run = (args: string[], environment: Record<string, string>) => {
    const all = ['--import', 'tsx', 'command/main.ts', ...args];
    const { PATH = '', HOME = '' } = process.env;
    const done = spawnSync(process.execPath, all, { env: { PATH, HOME, ...environment }, encoding: 'utf8' });
    return `${done.stdout}${done.stderr}`;
  };
  const setup = run(['setup', file], {});
  expect(setup).toContain('homeCurrency: Give a currency of ISO 4217, such as GBP.');
  expect(setup).not.toMatch(/expected string|undefined/);
  const served = run(['serve'], { DATABASE_URL: 'postgres://127.0.0.1:1/none' });
  expect(served).toMatch(/configuration is not complete|cannot be reached/);
  expect(served).not.toMatch(/\n\s+at /);
});
