import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import { alterSubscription } from './alter.ts';
import type { AlterationEffect } from './alterMessages.ts';
import type { SubscriptionView } from './messages.ts';

// Settlements where people meet them, each reckoned by hand from the rules. Every life begins on Monday 4 January 2027:
// its months are of 31 days (January), 28 and 31.

let world: World;
let offering: Offering;
let hives: { planId: string; rateId: string };
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  hives = await offering.plan(
    {
      name: 'Hives',
      mayDo: { cancel: 'period end', pause: true, pauseMost: 3, quantity: true, quantityMost: 9 },
    },
    {
      lines: [
        { name: 'Hive', price: { scheme: 'each', amount: '31.00' }, intro: { payments: 1, amount: '3.10' } },
      ],
    },
  );
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const effectOf = (id: string, asked: object) =>
  offering.done<AlterationEffect>('post', `/api/subscriptions/${id}/effect`, asked);
const alter = (id: string, asked: object) =>
  offering.done<AlterationEffect>('post', `/api/subscriptions/${id}/alter`, asked);
const viewOf = (id: string) => offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
const row = <Row extends object>(statement: string, bound = {}) =>
  world.almanac.db.row<Row>(statement, bound);

let life: string;
describe('begun on 4 January at a first price of 3.10 for a month of 31 days', () => {
  test('two instead of one on the 14th is settled at the first price, line by line, before and after it is done', async () => {
    life = await offering.enrolled(hives.rateId);
    await world.turnTo('2027-01-14');
    // 21 of 31 days are left, of what was charged and of what would have been: the first price is flat.
    const lines = [
      { says: 'back for Hive, 21 of 31 days of £3.10', amount: '-210' },
      { says: 'Hive, 21 of 31 days of £3.10', amount: '210' },
    ];
    const asked = { kind: 'quantity', quantity: 2, from: 'now' };
    const effect = await effectOf(life, asked);
    expect(effect.settlement).toEqual({ dueOn: '2027-01-14', carried: false, total: '0', lines });
    expect(await alter(life, asked)).toEqual(effect);
    await world.turnTo('2027-01-15');
    const [invoice] = (await viewOf(life)).invoices;
    expect(invoice).toMatchObject({ kind: 'change', total: '0', state: 'paid' });
    expect(invoice?.lines.map(({ settles, amount }) => ({ says: settles, amount }))).toEqual(lines);
    expect(effect.after.slice(0, 3).map(({ due }) => due)).toEqual(['0', '6200', '6200']);
  });

  test('the next date moves later for nothing, or for the days that it gives, and both are said', async () => {
    // 4 to 14 February: ten days more of a month of 31, at the first price of this month.
    const ways = {
      free: { amount: null, on: null, from: null, to: null },
      prorate: { amount: '100', on: '2027-01-15', from: '2027-02-04', to: '2027-02-14' },
    };
    const to = '2027-02-14';
    const free = await effectOf(life, { kind: 'date', to, days: 'free' });
    const paid = await effectOf(life, { kind: 'date', to, days: 'prorate' });
    expect([free.ways, paid.ways]).toEqual([ways, ways]);
    expect([free.settlement, paid.settlement?.lines]).toEqual([
      null,
      [{ says: 'Hive, 10 of 31 days of £3.10', amount: '100' }],
    ]);
    const dates = ({ after }: AlterationEffect) => after.slice(0, 2).map(({ from, due }) => `${from} ${due}`);
    expect(dates(free)).toEqual(['2027-02-14 6200', '2027-03-14 6200']);
    expect(dates(paid)).toEqual(['2027-01-15 100', '2027-02-14 6200']);
    // Earlier: 25 January to 4 February come back.
    const earlier = await effectOf(life, { kind: 'date', to: '2027-01-25', days: 'prorate' });
    expect(earlier.settlement).toMatchObject({
      total: '-100',
      lines: [{ says: 'back for Hive, 10 of 21 days of £2.10' }],
    });
    expect(earlier.after.slice(0, 2).map(({ from, due }) => `${from} ${due}`)).toEqual([
      '2027-01-15 0',
      '2027-01-25 6100',
    ]);
  });

  test('a day that cannot be is refused beside its field, and customers do not move dates', async () => {
    for (const to of ['2027-01-15', '2027-01-13', '2027-02-04', '2037-02-04']) {
      const { status, body } = await offering.ask('post', `/api/subscriptions/${life}/effect`, {
        kind: 'date',
        to,
        days: 'free',
      });
      expect([status, body.errors?.[0]?.pointer], to).toEqual([422, '/to']);
    }
    const past = await offering.ask('post', `/api/subscriptions/${life}/effect`, {
      kind: 'pause until',
      to: '2027-02-04',
      rest: 'free',
    });
    expect([past.status, past.body.errors?.[0]?.pointer]).toEqual([422, '/to']);
    for (const asked of [
      { kind: 'date', to: '2027-02-14', days: 'free' } as const,
      { kind: 'pause until', to: '2027-03-18', rest: 'free' } as const,
    ])
      await expect(alterSubscription(world.almanac, life, asked, 'customer')).rejects.toMatchObject({
        status: 403,
      });
    expect(
      await world.almanac.db.rows(`select 1 from alterations where alteration ->> 'kind' = 'date'`),
    ).toEqual([]);
  });

  test('a pause to the middle of a month leaves a rest: free, or charged by the day on the day it is on again', async () => {
    // From 4 February; on again on 18 March, in the month of 31 days from 4 March: 17 days are left of it.
    const asked = { kind: 'pause until', to: '2027-03-18', rest: 'prorate' };
    const effect = await effectOf(life, asked);
    expect(effect.ways).toEqual({
      free: { amount: null, on: null, from: null, to: null },
      prorate: { amount: '3400', on: '2027-03-18', from: '2027-03-18', to: '2027-04-04' },
    });
    expect(effect.after.slice(0, 2).map(({ from, kind, due }) => `${kind} ${from} ${due}`)).toEqual([
      'stub 2027-03-18 3400',
      'period 2027-04-04 6200',
    ]);
    // On a boundary nothing is left.
    expect((await effectOf(life, { ...asked, to: '2027-04-04' })).ways).toBeNull();
    expect(await alter(life, asked)).toEqual(effect);
    // What would have moved the date over the rest is refused: the rest is taken back first.
    const over = await offering.ask('post', `/api/subscriptions/${life}/effect`, {
      kind: 'date',
      to: '2027-03-20',
      days: 'free',
    });
    expect([over.status, over.body.errors?.[0]?.detail]).toEqual([
      422,
      expect.stringMatching(/^It rests from/),
    ]);
    await world.turnTo('2027-04-05');
    expect((await offering.invoiced(life)).slice(-2)).toEqual(['2027-03-18 3400', '2027-04-04 6200']);
  });
});

test('credit that is left at the end goes to the customer, and everybody is told', async () => {
  const { rateId } = await offering.plan(
    { name: 'Shelf' },
    { lines: [{ name: 'Shelf', price: { scheme: 'each', amount: '30.00' } }], ends: { after: 1 } },
  );
  const id = await offering.enrolled(rateId, { quantity: 3 });
  const asked = { kind: 'quantity', quantity: 1, from: 'now' };
  await world.turnTo(await offering.later(14));
  const effect = await effectOf(id, asked);
  const left = effect.creditLeft;
  expect(Number(left)).toBeGreaterThan(2000);
  expect(effect.settlement?.total).toBe(`-${left}`);
  expect(await alter(id, asked)).toEqual(effect);
  await world.turnTo(await offering.later(25));
  const { customerId, state } = await viewOf(id);
  expect(state).toBe('ended');
  const credits = await offering.done<object[]>('get', `/api/customers/${customerId}/credits`);
  expect(credits).toMatchObject([
    { currency: 'GBP', credit: left, moves: [{ why: 'settlement', amount: left, creditNote: 'CN-1' }] },
  ]);
  const letters = await lettersWhere(world.almanac, 'l.subscription_id = $id', { id });
  const pounds = `£${(Number(left) / 100).toFixed(2)}`;
  expect(letters.find(({ event }) => event === 'ended')?.plain).toContain(`${pounds} of what you paid`);
  expect(letters.find(({ event }) => event === 'subscription altered')?.plain).toContain(
    `${pounds} of what was paid`,
  );
  // Turned again, nothing is given a second time, and no invoice in the series of sales is below zero.
  await world.turnTo(await offering.later(3));
  expect(
    await row(
      `select count(*)::int as n, (select count(*)::int from invoices where total < 0) as below from credit_moves`,
    ),
  ).toEqual({ n: 1, below: 0 });
});

test('a date that is moved twice at once is moved once, and the difference is charged once', async () => {
  const id = await offering.enrolled(hives.rateId);
  await world.turnTo(await offering.later(5));
  const asked = { kind: 'date', to: await offering.later(40), days: 'prorate' };
  const answers = await Promise.all(
    [1, 2].map(() => offering.ask('post', `/api/subscriptions/${id}/alter`, asked)),
  );
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 422]);
  await world.turnTo(await offering.later(3));
  const { invoices } = await viewOf(id);
  expect(invoices.map(({ kind }) => kind)).toEqual(['change', 'period']);
  expect(
    await world.almanac.db.rows('select 1 from alterations where subscription_id = $id', { id }),
  ).toHaveLength(1);
});

test('a trial that nobody paid after is not taken up', async () => {
  const { rateId } = await offering.plan(
    { name: 'Tried' },
    { lines: [{ name: 'Hive', price: { scheme: 'flat', amount: '9.00' } }], trial: { length: 'P7D' } },
    { withoutMethod: 'end', noticeDays: 3 },
  );
  const id = await offering.enrolled(rateId, {}, false);
  await world.turnTo(await offering.later(8));
  expect(await row('select state, ended_why from subscriptions where id = $id', { id })).toEqual({
    state: 'ended',
    ended_why: 'not taken up',
  });
});
