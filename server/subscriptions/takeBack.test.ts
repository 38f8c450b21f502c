import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { AlterationEffect, PlannedChange } from './alterMessages.ts';
import type { SubscriptionView } from './messages.ts';

let world: World;
let offering: Offering;
let rateId: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const each = [{ name: 'Hive', price: { scheme: 'each', amount: '30.00' } }];
  ({ rateId } = await offering.plan({}, { lines: each }));
});
afterAll(() => world.end());

const alter = (id: string, asked: object) =>
  offering.done<AlterationEffect>('post', `/api/subscriptions/${id}/alter`, asked);
const planned = (id: string) => offering.done<PlannedChange[]>('get', `/api/subscriptions/${id}/planned`);
const coming = async (id: string) => {
  const { coming: payments } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  return payments.map(({ dueOn, due }) => `${dueOn} ${due}`);
};
const takeBack = (id: string, of: PlannedChange | undefined) =>
  offering.done<AlterationEffect>('delete', `/api/subscriptions/${id}/planned/${of?.id}`);

const EIGHT = { kind: 'quantity', quantity: 8, from: 'renewal' };
const REST = { kind: 'pause', periods: 2 };
const SKIP = { kind: 'pause', periods: 1 };

test('what was agreed to and lies ahead is listed, and each can be taken back: as if it had never been asked', async () => {
  // A twin for each thing taken back: it never had it. The run charges both alike.
  const pairs = await Promise.all(
    [EIGHT, REST, SKIP].map(async (gone) => {
      const of = await offering.enrolled(rateId, { quantity: 2 });
      const twin = await offering.enrolled(rateId, { quantity: 2 });
      return { gone, of, twin };
    }),
  );
  const start = await offering.today();
  await world.turnTo(await offering.later(10));
  for (const { gone, of, twin } of pairs) {
    for (const asked of [EIGHT, REST, SKIP]) {
      await alter(of, asked);
      if (asked !== gone) await alter(twin, asked);
    }
    const listed = await planned(of);
    expect(listed.map(({ stays }) => stays)).toEqual([null, null, null]);
    expect(listed.map(({ says }) => says)).toEqual([
      expect.stringContaining('the quantity is 8 from'),
      expect.stringContaining('it rests from'),
      expect.stringContaining('it rests from'),
    ]);
    const which = listed[[EIGHT, REST, SKIP].indexOf(gone)];
    const effect = await offering.done<AlterationEffect>(
      'get',
      `/api/subscriptions/${of}/planned/${which?.id}`,
    );
    const told = await takeBack(of, which);
    expect(told.after, 'what was shown before is what was done').toEqual(effect.after);
    expect(await coming(of), JSON.stringify(gone)).toEqual(await coming(twin));
    expect(await planned(of)).toHaveLength(2);
  }
  await world.turnTo(await offering.later(200));
  for (const { of, twin } of pairs)
    expect(await offering.invoiced(of)).toEqual(await offering.invoiced(twin));
  expect((await offering.invoiced(pairs[0]?.of ?? '')).at(0)).toBe(`${start} 6000`);
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
}, 60_000);

test('what has begun stays, and so does what later settlement stands on; it says why', async () => {
  const id = await offering.enrolled(rateId, { quantity: 2 });
  await world.turnTo(await offering.later(5));
  await alter(id, { kind: 'quantity', quantity: 3, from: 'now' });
  await world.turnTo(await offering.later(1));
  expect(await planned(id), 'it is charged, and no plan any more').toEqual([]);
  await alter(id, EIGHT);
  await alter(id, { kind: 'quantity', quantity: 5, from: 'now' });
  const [now, eight] = await planned(id);
  expect([now?.stays, eight?.stays]).toEqual([null, expect.stringContaining('Take back first')]);
  const refused = await offering.ask('delete', `/api/subscriptions/${id}/planned/${eight?.id}`);
  expect(refused.status).toBe(422);
});

test('what was agreed to before something that has been invoiced meanwhile stays: that would begin later than it did', async () => {
  const id = await offering.enrolled(rateId, { quantity: 2 });
  await world.turnTo(await offering.later(3));
  await alter(id, { kind: 'cancel', when: 'after payments', payments: 6 });
  await alter(id, EIGHT);
  await world.turnTo(await offering.later(33));
  const [end] = await planned(id);
  expect(end?.stays).toContain('What was agreed to after it has begun: the quantity is 8');
  const path = `/api/subscriptions/${id}/planned/${end?.id}`;
  expect((await offering.ask('delete', path)).body.detail).toBe(end?.stays);
  await world.turnTo(await offering.later(30));
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});

test('a code that is taken back was not used, and no other code of that day is given back for it', async () => {
  const made = async (name: string, code: string) => {
    const any = { currency: null, payments: null, plans: [], validFrom: null, validTo: null };
    const most = { mostUses: null, mostPerCustomer: null };
    const value = { name, as: 'percent', off: '10', appliesTo: 'recurring', stacks: true, ...any, ...most };
    const { id } = await offering.done('post', '/api/discounts', { value });
    await offering.done('post', `/api/discounts/${id}/codes`, { kind: 'one', code, mostUses: 1 });
  };
  await made('First', 'FIRST-10');
  await made('Second', 'SECOND-10');
  const id = await offering.enrolled(rateId, { quantity: 1, codes: ['FIRST-10'] });
  await alter(id, { kind: 'code', code: 'second-10' });
  const used = () =>
    world.almanac.db.rows<{ code: string; used: number; uses: number }>(
      `select c.code, c.used, (select count(*)::int from discount_uses u where u.code_id = c.id) as uses
       from discount_codes c order by c.code`,
    );
  expect((await used()).map((one) => [one.code, one.used, one.uses])).toEqual([
    ['FIRST-10', 1, 1],
    ['SECOND-10', 1, 1],
  ]);
  const [code] = await planned(id);
  // Asked twice at once it is taken back once.
  const path = `/api/subscriptions/${id}/planned/${code?.id}`;
  const answers = await Promise.all([offering.ask('delete', path), offering.ask('delete', path)]);
  expect(answers.map(({ status }) => status).toSorted()).toEqual([200, 404]);
  expect((await used()).map((one) => [one.code, one.used, one.uses])).toEqual([
    ['FIRST-10', 1, 1],
    ['SECOND-10', 0, 0],
  ]);
  expect((await alter(id, { kind: 'code', code: 'SECOND-10' })).says, 'it can be used again').toContain(
    'SECOND-10',
  );
});

test('an end with the period paid is the end of that period, also where the next is skipped', async () => {
  const id = await offering.enrolled(rateId, { quantity: 1 });
  const plain = await offering.enrolled(rateId, { quantity: 1 });
  await world.turnTo(await offering.later(3));
  await alter(id, { kind: 'pause', periods: 3 });
  const { endsOn: after } = await alter(id, { kind: 'cancel', when: 'period end' });
  const { endsOn: without } = await alter(plain, { kind: 'cancel', when: 'period end' });
  expect(after).toBe(without);
  await world.turnTo(after ?? '');
  await world.turnTo(await offering.later(1));
  const { state } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  expect(state).toBe('ended');
  expect(await offering.invoiced(id)).toHaveLength(1);
});

test('for any history of changes, taking one back leaves what the others alone would have come to', async () => {
  const asked = fc.oneof(
    fc.record({
      kind: fc.constant('quantity'),
      quantity: fc.integer({ min: 3, max: 9 }),
      from: fc.constant('renewal'),
    }),
    fc.record({ kind: fc.constant('pause'), periods: fc.integer({ min: 1, max: 3 }) }),
  );
  const histories = fc.sample(fc.tuple(fc.array(asked, { minLength: 2, maxLength: 4 }), fc.nat(3)), {
    numRuns: 10,
    seed: 11,
  });
  for (const [history, at] of histories) {
    const gone = at % history.length;
    const of = await offering.enrolled(rateId, { quantity: 2 });
    const twin = await offering.enrolled(rateId, { quantity: 2 });
    await world.turnTo(await offering.later(2));
    for (const [i, change] of history.entries()) {
      await alter(of, change);
      if (i !== gone) await alter(twin, change);
    }
    // Listed by their dates; in the order they were asked for they are counted by their ids.
    const inOrder = (await planned(of)).toSorted((a, b) => Number(a.id) - Number(b.id));
    await takeBack(of, inOrder[gone]);
    expect(await coming(of), `${gone} of ${JSON.stringify(history)}`).toEqual(await coming(twin));
    expect((await planned(of)).length).toBe(history.length - 1);
  }
  await world.turnTo(await offering.later(70));
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
}, 120_000);
