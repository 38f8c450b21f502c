import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { Page } from '../http/list.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { verify } from '../verify/verify.ts';
import { collectDebts, takeNewMethod } from './newMethod.ts';
import { RecoveryCase } from './RecoveryCase.ts';
import type { SuspensionEffect, SuspensionView, WaitingRow } from './suspensionMessages.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

const plus = (date: string, days: number) => formatDay(toDay(date) + days);
const turn = async (days: number) => world.turnTo(plus(await offering.today(), days));
const holds = async (when: string) => {
  for (const { rule, breaches } of await verify(world.almanac))
    expect(breaches, `${rule}, ${when}`).toEqual([]);
};
const attemptsOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select a.attempted_on || ' ' || a.state as said from attempts a join invoices i on i.id = a.invoice_id
       where i.subscription_id = $id order by a.id`,
      { id },
    )
  ).map(({ said }) => said);
const letters = async () =>
  (
    await world.almanac.db.row<{ n: number }>(
      `select count(*)::int as n from letters where event <> 'receipt'`,
    )
  )?.n;
const stop = (until: string, customerId: string | null = null) =>
  offering.ask('post', '/api/suspensions', { customerId, until, why: 'The gateway moves house.' });
const stopped = () => offering.done<SuspensionView[]>('get', '/api/suspensions');
const waiting = async () =>
  (await offering.done<Page<WaitingRow>>('get', '/api/suspensions/waiting?sort=customer')).rows;
const customerOf = async (id: string) =>
  (await Subscription.findByPk(id, { rejectOnEmpty: true })).customerId;

test('while collecting is stopped nothing is charged, climbed or written; what waits is listed, and goes on, each as it is chosen', async () => {
  const [good = '', poor = '', other = ''] = await world.enrol([{}, { code: '51' }, {}], { interval: 'P1W' });
  await turn(1);
  const start = await offering.today();
  const until = plus(start, 40);
  const effect = await offering.done<SuspensionEffect>('post', '/api/suspensions/effect', {
    ...{ customerId: null, until: plus(start, 7), why: 'x' },
  });
  // Two renew in that week; the third stands in its case, whose debt is no charge of its own, and renews too.
  expect(effect).toEqual({ charges: 3, steps: 1, sums: [{ currency: 'GBP', amount: '3000' }] });
  const before = await letters();
  expect((await stop(until)).status).toBe(201);
  expect((await offering.done<{ suspended: object }>('get', '/api/business')).suspended).toEqual({
    until,
    customers: 0,
  });
  await turn(8);
  await holds('while it is stopped');
  expect(await attemptsOf(good)).toHaveLength(1);
  expect(await attemptsOf(poor)).toHaveLength(1);
  expect(await letters()).toBe(before);
  expect(
    (await waiting()).map(({ kind, on, owed }) => `${kind} ${toDay(on) - toDay(start)} ${owed}`).sort(),
  ).toEqual([...['charge 6 1000', 'charge 6 1000', 'charge 6 1000', 'step 2 1000']]);

  // Another card is kept, and not charged; who pays by their own will pays.
  await world.moveCards([{ token: 'card-given-while-stopped', behaviour: {} }]);
  const customerId = await customerOf(poor);
  const taken = await takeNewMethod(world.almanac, {
    customerId,
    token: 'card-given-while-stopped',
    channel: 'staff',
  });
  expect(taken.charged).toEqual([]);
  const today = await offering.today();
  const by = { customerId: await customerOf(good), channel: 'customer' as const };
  expect(await collectDebts(world.almanac, by, 'own page', today, 'by the customer')).toMatchObject([
    { outcome: 'collected' },
  ]);

  // One stays stopped when the others go on.
  const [all] = await stopped();
  const keep = [{ customerId: await customerOf(other), until: plus(today, 5) }];
  const late = await offering.ask('post', `/api/suspensions/${all?.id}/resume`, {
    keep: [{ ...keep[0], until: today }],
  });
  expect(late.body.errors[0].pointer).toBe('/keep/0/until');
  expect((await offering.ask('post', `/api/suspensions/${all?.id}/resume`, { keep })).status).toBe(201);
  expect((await offering.ask('post', `/api/suspensions/${all?.id}/resume`, { keep: [] })).status).toBe(409);
  expect((await stopped()).map((one) => one.customerId)).toEqual([keep[0]?.customerId]);
  await holds('before the day is turned on which they go on');
  await turn(1);
  await holds('when some go on');
  expect((await attemptsOf(poor)).slice(1)).toEqual([`${today} collected`, `${today} collected`]);
  expect(await RecoveryCase.findOne({ where: { subscriptionId: poor } })).toMatchObject({
    state: 'recovered',
  });
  expect(await attemptsOf(other)).toHaveLength(1);
  // Its day has come: it goes on by itself.
  await turn(5);
  await holds('when all go on');
  expect((await attemptsOf(other))[1]).toBe(`${plus(today, 5)} collected`);
  expect(await stopped()).toEqual([]);
});

test('it is changed and not doubled, is refused beside its field, and a reader does none of it', async () => {
  const today = await offering.today();
  const [id = ''] = await world.enrol([{}]);
  const customerId = await customerOf(id);
  expect((await stop(plus(today, 3), customerId)).status).toBe(201);
  expect((await stop(plus(today, 9), customerId)).status).toBe(201);
  expect(await stopped()).toMatchObject([{ customerId, until: plus(today, 9) }]);
  expect((await stop(today)).body.errors[0].pointer).toBe('/until');
  expect((await stop(plus(today, 400))).body.errors[0].pointer).toBe('/until');
  expect((await stop(plus(today, 3), '999999')).status).toBe(404);
  const silent = { customerId: null, until: plus(today, 3), why: ' ' };
  expect((await offering.ask('post', '/api/suspensions', silent)).body.errors[0].pointer).toBe('/why');
  const reads = asking(offering.app, (await signedIn(world, 'reader', 'Reads')).cookie);
  expect((await reads('get', '/api/suspensions')).status).toBe(200);
  expect((await reads('post', '/api/suspensions', { ...silent, why: 'x' })).status).toBe(403);
  // Two who stop everybody at once leave one behind.
  const both = await Promise.all([stop(plus(today, 5)), stop(plus(today, 6))]);
  expect(both.map(({ status }) => status)).toEqual([201, 201]);
  expect((await stopped()).filter((one) => one.customerId === null)).toHaveLength(1);
});
