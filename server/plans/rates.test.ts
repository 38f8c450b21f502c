import type { Express } from 'express';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { verify } from '../verify/verify.ts';
import { planSchema } from './messages.ts';

let world: World;
let app: Express;
let ask: ReturnType<typeof asking>;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'biller')).cookie);
});
afterAll(() => world.end());

const flat = (amount: string, more: object = {}) => ({
  currency: 'GBP',
  interval: 'P1M',
  lines: [{ name: 'Sample', price: { scheme: 'flat', amount } }],
  ...more,
});
const newest = async () =>
  (await ask('get', '/api/plans')).body.sort(
    (a: { id: string }, b: { id: string }) => Number(b.id) - Number(a.id),
  )[0];
const edit = (rate: { id: string; version: number }, terms: object, subscribers: object, options = {}) =>
  ask('put', `/api/rates/${rate.id}`, {
    ...{ version: rate.version, value: { name: 'Only', terms, options }, subscribers },
  });
/** Who is on the newest version of a rate and who is to come to it, then the same of the version before. */
const counted = async (rateId: string) => {
  const [newest, before] = (await ask('get', `/api/rates/${rateId}/versions`)).body;
  return [newest, before].map(({ subscribers, coming }) => [subscribers, coming]);
};
const totals = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select period_from || ' ' || total as said from invoices where subscription_id = $id order by id`,
      { id },
    )
  ).map(({ said }) => said);
const sound = async () =>
  (await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0).map(({ breaches }) => breaches);

test('a rate in use is never changed under its subscribers: they stay on their version', async () => {
  const [before = ''] = await world.enrol([{}]);
  await world.turnTo('2027-01-05');
  const [rate] = (await newest()).rates;
  expect((await edit(rate, flat('99.00'), { kind: 'stay' })).status).toBe(200);
  expect((await edit(rate, flat('98.00'), { kind: 'stay' })).body.theirs.version).toBe(2);
  await world.turnTo('2027-02-05');
  expect(await totals(before)).toEqual(['2027-01-04 1000', '2027-02-04 1000']);
  const versions = (await ask('get', `/api/rates/${rate.id}/versions`)).body;
  expect(
    versions.map(({ version, subscribers }: { version: number; subscribers: number }) => [
      version,
      subscribers,
    ]),
  ).toEqual([
    [2, 0],
    [1, 1],
  ]);
  await expect(world.almanac.db.rows(`update rate_versions set name = 'x'`)).rejects.toThrow(/append-only/);
});

test('subscribers move at their renewal, each after a letter; what it does is said before', async () => {
  const [first = '', second = ''] = await world.enrol([{}, {}]);
  await world.turnTo('2027-02-10');
  const [rate] = (await newest()).rates;
  const subscribers = { kind: 'renewal', letterDays: 10 };
  const asked = { version: rate.version, value: { name: 'Only', terms: flat('12.50') }, subscribers };
  const effect = (await ask('post', `/api/rates/${rate.id}/effect`, asked)).body;
  expect(effect.sums).toEqual([{ currency: 'GBP', before: '2000', after: '2500' }]);
  expect(effect.shown.map(({ effectiveOn }: { effectiveOn: string }) => effectiveOn)).toEqual([
    '2027-03-05',
    '2027-03-05',
  ]);
  expect(await totals(first)).toEqual(['2027-02-05 1000']);
  expect((await edit(rate, flat('12.50'), subscribers, { account: '4900' })).body).toEqual(effect);
  const waiting = [
    [0, 2],
    [2, 0],
  ];
  expect(await counted(rate.id)).toEqual(waiting);
  await world.turnTo('2027-02-23');
  const letters = () => lettersWhere(world.almanac, `l.event = 'terms changing'`);
  expect(await letters()).toEqual([]);
  await world.turnTo('2027-03-06');
  const told = await letters();
  expect(told.map(({ on }) => on)).toEqual(['2027-02-23', '2027-02-23']);
  expect(told[0]?.plain).toContain('From Fri 5 Mar 2027');
  expect(told[0]?.plain).toContain('£12.50 every month');
  for (const id of [first, second]) expect(await totals(id)).toEqual(['2027-02-05 1000', '2027-03-05 1250']);
  expect(await counted(rate.id)).toEqual([
    [2, 0],
    [0, 0],
  ]);
  const accounts = 'select account from invoices where subscription_id = $first order by id';
  expect(await world.almanac.db.rows(accounts, { first })).toEqual([{ account: '' }, { account: '4900' }]);
  expect(await sound()).toEqual([]);
});

test('a move on a date takes another rhythm along; whoever cannot move is named and stays', async () => {
  const [monthly = ''] = await world.enrol([{}]);
  await world.turnTo('2027-03-07');
  const plan = await newest();
  const [rate] = plan.rates;
  const date = '2027-04-06';
  const early = await edit(rate, flat('100.00', { interval: 'P1Y' }), {
    kind: 'date',
    date: '2027-03-08',
    letterDays: 14,
  });
  expect(early.body.errors[0].pointer).toBe('/subscribers/date');
  const sameDay = { kind: 'date', date: '2027-03-07', letterDays: 0 };
  const tooSoon = await edit(rate, flat('100.00', { interval: 'P1Y' }), sameDay);
  expect(tooSoon.body.errors[0].detail).toContain('Mon 8 Mar 2027');
  const moved = await edit(rate, flat('100.00', { interval: 'P1Y' }), { kind: 'date', date, letterDays: 14 });
  expect(moved.body.moves).toBe(1);
  expect(moved.body.sums).toEqual([{ currency: 'GBP', before: '1000', after: '833' }]);
  await world.turnTo('2027-05-10');
  expect(await totals(monthly)).toEqual(['2027-03-06 1000', '2027-04-06 10000']);
  expect(await sound()).toEqual([]);

  const [fixed = ''] = await world.enrol([{}], {
    interval: 'P1M',
    lines: [{ price: { scheme: 'instalments', total: '70.00' } }],
    ends: { after: 7 },
  });
  await world.turnTo('2027-05-11');
  const [other] = (await newest()).rates;
  const stays = (await edit(other, flat('9.00'), { kind: 'renewal', letterDays: 0 })).body.shown[0];
  expect(stays.stays).toMatch(/cannot be changed/);
  expect(stays.subscriptionId).toBe(fixed);
});

test('what a plan or a rate names must be there: a picture, a document, a rate of its own, a tax, a gateway', async () => {
  const { id, version, rates, ...plan } = await newest();
  const planValue = Object.fromEntries(Object.keys(planSchema.shape).map((name) => [name, plan[name]]));
  const other = await ask('get', '/api/plans');
  const stranger = other.body.find((one: { id: string }) => one.id !== id).rates[0].id;
  for (const [wrong, pointer] of [
    [{ picture: '999999' }, '/value/picture'],
    [{ documents: [{ upload: '999999', name: 'Rules' }] }, '/value/documents/0'],
    [{ firstRate: stranger }, '/value/firstRate'],
  ] as const) {
    const { status, body } = await ask('put', `/api/plans/${id}`, {
      version,
      value: { ...planValue, ...wrong },
    });
    expect([status, body.errors?.[0].pointer]).toEqual([422, pointer]);
  }
  const [rate] = rates;
  for (const [wrong, pointer] of [
    [{ taxChoice: { kind: 'tax', id: '999999' } }, '/value/taxChoice'],
    [{ options: { gateways: ['999999'] } }, '/value/options/gateways'],
  ] as const) {
    const value = { name: 'Only', terms: rate.terms, ...wrong };
    const asked = { version: rate.version, value, subscribers: { kind: 'stay' } };
    const { status, body } = await ask('put', `/api/rates/${rate.id}`, asked);
    expect([status, body.errors?.[0].pointer]).toEqual([422, pointer]);
  }
});

test('an archived rate is not sold, its subscribers go on, and it can be restored', async () => {
  const { id, rates } = await newest();
  expect((await ask('put', `/api/plans/${id}/archived`, { archived: true })).status).toBe(200);
  expect((await ask('get', '/api/plans')).body.map((plan: { id: string }) => plan.id)).not.toContain(id);
  const enrol = {
    customer: { name: 'A', email: 'a@post.example' },
    rateId: rates[0].id,
    starts: '2027-05-11',
    cardToken: 'moved-nothing',
  };
  expect((await ask('post', '/api/subscriptions', enrol)).status).toBe(422);
  const archived = (await ask('get', '/api/plan-list?state=archived')).body.rows;
  expect(archived).toMatchObject([{ id, notSold: 'archived' }]);
  await ask('put', `/api/plans/${id}/archived`, { archived: false });
  expect((await ask('get', '/api/plan-list?state=archived')).body.total).toBe(0);
  const listed = async (query: string) => (await ask('get', `/api/plan-list?${query}`)).body.total;
  expect(await listed('kind=course')).toBe(0);
  expect(await listed('kind=service&state=can be sold')).toBe(await listed(''));
});
