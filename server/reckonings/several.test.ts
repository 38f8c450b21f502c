import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { ManyRow } from './manyMessages.ts';

let world: World;
let offering: Offering;
const lines = [{ name: 'Row', price: { scheme: 'each', amount: '10.00' } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

const customerOf = async (subscription: string) =>
  (await offering.done<{ customerId: string }>('get', `/api/subscriptions/${subscription}`)).customerId;
const made = async (rateId: string) =>
  (
    await world.almanac.db.rows<{ customer: string }>(
      `select customer_id::text as customer from subscriptions where rate_id = $rateId order by id`,
      { rateId },
    )
  ).map(({ customer }) => customer);

test('several are enrolled in the same, each as they pay; who cannot be is left out with the reason and stops nobody', async () => {
  const { rateId: had } = await offering.plan({ name: 'Had' }, { lines });
  const { rateId } = await offering.plan({ name: 'Club' }, { lines }, { methods: ['card', 'invoice'] });
  const withCard = await customerOf(await offering.enrolled(had));
  const without = await customerOf(await offering.enrolled(had, { pays: 'link' }, false));
  const hasIt = await customerOf(await offering.enrolled(rateId));
  const erased = await customerOf(await offering.enrolled(had));
  await world.almanac.db.rows(`update customers set erased_on = '2027-01-04' where id = $erased`, { erased });
  const wanted = {
    ...{ rateId, quantity: 3, starts: await offering.today() },
    customerIds: [withCard, erased, without, hasIt],
  };
  const effect = await offering.done<ManyRow[]>('post', '/api/subscriptions/several/effect', wanted);
  expect(effect).toMatchObject([
    { pays: 'Larkfield ending 4242', first: { due: '3000', dueOn: '2027-01-04' }, left: null, id: null },
    { left: 'What was known of them has been erased.' },
    { pays: 'asked for by mail', first: { due: '3000' }, left: null },
    { left: 'They have this rate already, since Mon 4 Jan 2027.' },
  ]);
  expect(await made(rateId)).toEqual([hasIt]);

  const rows = await offering.done<ManyRow[]>('post', '/api/subscriptions/several', wanted);
  expect(rows.map(({ id }) => id !== null)).toEqual([true, false, true, false]);
  expect(await made(rateId)).toEqual([hasIt, withCard, without]);
  // Asked for again, as after it broke off in its middle: nobody is enrolled twice.
  const again = await offering.done<ManyRow[]>('post', '/api/subscriptions/several', wanted);
  expect(again.every(({ id }) => id === null)).toBe(true);
  expect(await made(rateId)).toHaveLength(3);

  await world.turnTo('2027-01-06');
  const owed = await world.almanac.db.rows<{ customer: string; state: string }>(
    `select i.customer_id::text as customer, i.state from invoices i join subscriptions s on s.id = i.subscription_id
     where s.rate_id = $rateId order by i.customer_id`,
    { rateId },
  );
  expect(owed).toEqual([
    { customer: withCard, state: 'paid' },
    { customer: without, state: 'issued' },
    { customer: hasIt, state: 'paid' },
  ]);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('two who enrol the same people at the same time enrol each of them once, and each is told who was left out', async () => {
  const { rateId: before } = await offering.plan({ name: 'Before' }, { lines });
  const { rateId } = await offering.plan({ name: 'Raced' }, { lines });
  const customerIds: string[] = [];
  for (let i = 0; i < 6; i += 1) customerIds.push(await customerOf(await offering.enrolled(before)));
  const wanted = { rateId, quantity: 1, starts: await offering.today(), customerIds };
  const answers = await Promise.all(
    [1, 2, 3].map(() => offering.done<ManyRow[]>('post', '/api/subscriptions/several', wanted)),
  );
  expect((await made(rateId)).toSorted()).toEqual(customerIds.toSorted());
  for (const at of customerIds.keys()) {
    const rows = answers.map((rowsOf) => rowsOf[at]);
    expect(rows.filter((row) => row?.id !== null)).toHaveLength(1);
    expect(rows.filter((row) => row?.left?.startsWith('They have this rate already'))).toHaveLength(2);
  }
});

test('what is wrong with the choice itself is said for each, and nobody twice or more than two hundred are asked for', async () => {
  const { rateId } = await offering.plan({ name: 'By card alone' }, { lines });
  const customer = await customerOf(
    await offering.enrolled((await offering.plan({ name: 'Other' }, { lines })).rateId),
  );
  const wanted = { rateId, quantity: 1, starts: await offering.today(), customerIds: [customer] };
  const effect = (more: object) =>
    offering.ask('post', '/api/subscriptions/several/effect', { ...wanted, ...more });
  expect((await effect({ pays: 'invoice' })).body).toMatchObject([
    { left: 'This rate is not paid by invoice.' },
  ]);
  expect((await effect({ codes: ['NOSUCH'] })).body[0].left).toMatch(/code/i);
  expect((await effect({ customerIds: [customer, customer] })).status).toBe(422);
  expect((await effect({ customerIds: [] })).status).toBe(422);
  const many = Array.from({ length: 201 }, (_, i) => String(i + 1));
  expect((await effect({ customerIds: many })).body.errors).toMatchObject([
    { detail: 'At most 200 at once.' },
  ]);
});

test('a rate that is made for one customer alone is archived once it is taken, and not where that is refused', async () => {
  const { planId, rateId } = await offering.plan({ name: 'Made here' }, { lines });
  const { id: once } = await offering.done('post', `/api/plans/${planId}/rates`, {
    name: 'As agreed',
    terms: {
      currency: 'GBP',
      interval: 'P2M',
      lines: [{ name: 'Row', price: { scheme: 'flat', amount: '7.00' } }],
    },
  });
  const archived = () =>
    world.almanac.db.rows(
      `select archived_on::text as "on" from rates where id = any($ids::bigint[]) order by id`,
      {
        ids: [rateId, once],
      },
    );
  expect((await offering.enrol(once, { rateOnce: true, pays: 'invoice' })).status).toBe(422);
  expect(await archived()).toEqual([{ on: null }, { on: null }]);
  const id = await offering.enrolled(once, { rateOnce: true });
  expect(await archived()).toEqual([{ on: null }, { on: await offering.today() }]);
  expect((await offering.enrol(once)).body.errors).toMatchObject([{ pointer: '/rateId' }]);
  // Whoever has it goes on.
  await world.turnTo('2027-03-08');
  expect(await offering.invoiced(id)).toHaveLength(2);
});

test('other plans begin with the same enrolment: paid with the same, each a subscription of its own; one that is refused begins none', async () => {
  const { rateId: monthly } = await offering.plan({ name: 'Monthly' }, { lines });
  const { rateId: yearly } = await offering.plan({ name: 'Yearly' }, { interval: 'P1Y', lines });
  const { rateId: byHand } = await offering.plan({ name: 'By hand' }, { lines }, { methods: ['invoice'] });
  const starts = await offering.today();
  const also = (rateId: string, quantity = 2) => ({ rateId, starts, quantity });
  const people = async () =>
    (await world.almanac.db.row<{ n: number }>('select count(*)::int as n from customers'))?.n;
  const before = await people();
  const refused = await offering.enrol(monthly, { quantity: 1, also: [also(yearly), also(byHand)] });
  expect(refused.body.errors).toMatchObject([{ pointer: '/also/1/pays' }]);
  const faulty = await offering.enrol(monthly, { quantity: 1, also: [also('999999')] });
  expect(faulty.body.errors).toMatchObject([{ pointer: '/also/0/rateId' }]);
  expect(await people()).toBe(before);

  const {
    id,
    also: others,
    customerId,
  } = (await offering.enrol(monthly, { quantity: 1, also: [also(yearly), also(monthly, 3)] })).body as {
    id: string;
    also: string[];
    customerId: string;
  };
  expect(others).toHaveLength(2);
  await world.turnTo(await offering.later(2));
  const paid = await world.almanac.db.rows<{ id: string; total: string; state: string }>(
    `select subscription_id::text as id, total::text, state from invoices where customer_id = $customerId order by subscription_id`,
    { customerId },
  );
  expect(paid).toEqual([
    { id, total: '1000', state: 'paid' },
    { id: others[0], total: '2000', state: 'paid' },
    { id: others[1], total: '3000', state: 'paid' },
  ]);
  // A card for the first alone is that of what begins beside it, too.
  await world.moveCards([{ token: 'a-card-of-its-own-here', behaviour: {} }]);
  const own = (
    await offering.enrol(
      monthly,
      {
        ...{
          customer: { id: customerId },
          quantity: 1,
          cardToken: 'a-card-of-its-own-here',
          cardRole: 'own',
        },
        also: [{ ...also(yearly), starts: await offering.today() }],
      },
      false,
    )
  ).body as { id: string; also: string[] };
  const methods = await world.almanac.db.rows<{ own: string | null }>(
    'select own_method_id::text as own from subscriptions where id = any($ids::bigint[])',
    { ids: [own.id, ...own.also] },
  );
  expect(new Set(methods.map(({ own: method }) => method)).size).toBe(1);
  expect(methods[0]?.own).not.toBeNull();
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});
