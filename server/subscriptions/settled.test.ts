import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

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

/*
 * Small lives of monthly subscriptions that begin on Monday 4 January 2027, each altered once or twice; what is to be
 * invoiced was reckoned by hand from the rules. All of them live side by side in one business.
 */
const flat = (name: string, amount: string, more: object = {}) => ({
  name,
  price: { scheme: 'flat', amount },
  ...more,
});
const each = (amount: string) => ({ name: 'Hive', price: { scheme: 'each', amount } });
const jar = {
  ...{ key: 'jar', name: 'Jar', price: { scheme: 'flat', amount: '10.00' }, currency: 'GBP' },
  ...{ when: 'recurring', how: 'offered', min: 1, max: 5, byCustomer: true },
};
const alter = (id: string, asked: object) => offering.ask('post', `/api/subscriptions/${id}/alter`, asked);
const done = async (id: string, asked: object) => expect((await alter(id, asked)).status).toBe(201);

/** Moves all subscribers of a rate to other terms on a day. */
async function move(of: { planId: string; rateId: string }, terms: object, date: string) {
  const { rates } = await offering.done<{ rates: { id: string; version: number; name: string }[] }>(
    'get',
    `/api/plans/${of.planId}`,
  );
  const rate = rates.find(({ id }) => id === of.rateId);
  await offering.done('put', `/api/rates/${of.rateId}`, {
    version: rate?.version,
    value: { name: rate?.name, terms: { currency: 'GBP', interval: 'P1M', ...terms }, options: {} },
    subscribers: { kind: 'date', date, letterDays: 1, stub: 'prorate' },
  });
}

test('alterations and moves come to what the rules say', async () => {
  const free = await offering.plan(
    { name: 'Free', extras: [jar] },
    { lines: [flat('Row', '6.00', { discounts: [{ percent: '100' }] })] },
  );
  const halved = await offering.plan(
    { name: 'Halved' },
    { lines: [flat('Row', '100.00', { discounts: [{ percent: '50', payments: 2 }] })] },
  );
  const rhythm = await offering.plan({ name: 'Rhythm' }, { lines: [flat('Row', '8.00')] });
  const counted = await offering.plan({ name: 'Counted' }, { lines: [each('6.00')] });
  const coded = await offering.plan(
    { name: 'Coded' },
    { lines: [flat('Small', '10.00'), flat('Large', '50.00')] },
  );
  const begun = await offering.plan(
    { name: 'Begun', extras: [jar] },
    { lines: [flat('Row', '6.00', { intro: { payments: 3, amount: '1.00' } })] },
  );
  const lives = {
    free: await offering.enrolled(free.rateId),
    halved: await offering.enrolled(halved.rateId),
    rhythm: await offering.enrolled(rhythm.rateId),
    counted: await offering.enrolled(counted.rateId),
    coded: await offering.enrolled(coded.rateId),
    begun: await offering.enrolled(begun.rateId),
  };
  const discount = await offering.done('post', '/api/discounts', {
    value: {
      ...{ name: 'Thirty', as: 'amount', off: '30.00', currency: 'GBP', payments: 2, appliesTo: 'recurring' },
      ...{ plans: [], validFrom: null, validTo: null, mostUses: null, mostPerCustomer: null, stacks: true },
    },
  });
  await offering.done('post', `/api/discounts/${discount.id}/codes`, {
    ...{ kind: 'one', code: 'THIRTY', mostUses: null },
  });

  await world.turnTo('2027-01-05');
  await done(lives.free, { kind: 'extra', key: 'jar', quantity: 1, from: 'renewal' });
  await done(lives.begun, { kind: 'extra', key: 'jar', quantity: 1, from: 'renewal' });
  await done(lives.coded, { kind: 'code', code: 'THIRTY' });
  await move(halved, { lines: [flat('Row', '120.00')] }, '2027-04-04');
  await move(rhythm, { lines: [flat('Row', '4.00')], interval: 'P2W' }, '2027-02-04');
  await move(counted, { lines: [each('7.00')] }, '2027-01-20');
  await world.turnTo('2027-01-20');
  await done(lives.counted, { kind: 'quantity', quantity: 10, from: 'now' });
  await world.turnTo('2027-02-25');
  await move(rhythm, { lines: [flat('Row', '8.00')] }, '2027-03-04');
  await world.turnTo('2027-05-01');

  expect(await offering.invoiced(lives.free), 'an extra takes over nothing of the line before it').toEqual([
    ...['2027-01-04 0', '2027-02-04 1000', '2027-03-04 1000', '2027-04-04 1000'],
  ]);
  expect(await offering.invoiced(lives.halved), 'two payments at half, not three').toEqual([
    ...['2027-01-04 5000', '2027-02-04 5000', '2027-03-04 10000', '2027-04-04 12000'],
  ]);
  expect(await offering.invoiced(lives.rhythm), 'every month, every two weeks, every month again').toEqual([
    ...['2027-01-04 800', '2027-02-04 400', '2027-02-18 400', '2027-03-04 800', '2027-04-04 800'],
  ]);
  // 15 of 31 days: 70.00 makes 33.87, and 6.00 gives back 2.90.
  expect(await offering.invoiced(lives.counted), 'settled on the day of the move').toEqual([
    ...['2027-01-04 600', '2027-01-20 3097', '2027-02-04 7000', '2027-03-04 7000', '2027-04-04 7000'],
  ]);
  expect(await offering.invoiced(lives.coded), 'thirty off both lines together, twice').toEqual([
    ...['2027-01-04 6000', '2027-02-04 3000', '2027-03-04 3000', '2027-04-04 6000'],
  ]);
  expect(await offering.invoiced(lives.begun), 'what is left of the first price goes on').toEqual([
    ...['2027-01-04 100', '2027-02-04 1100', '2027-03-04 1100', '2027-04-04 1600'],
  ]);
});

test('an end cannot be taken back on the day on which it ends', async () => {
  const { rateId } = await offering.plan(
    { name: 'Ending' },
    { lines: [flat('Row', '5.00')], interval: 'P1W' },
  );
  const id = await offering.enrolled(rateId);
  await world.turnTo('2027-05-02');
  await done(id, { kind: 'cancel', when: 'period end' });
  await done(id, { kind: 'go on' });
  await done(id, { kind: 'cancel', when: 'period end' });
  await world.turnTo('2027-05-08');
  const refused = await alter(id, { kind: 'go on' });
  expect([refused.status, refused.body.detail]).toEqual([422, 'It has ended: enrol anew instead.']);
  await world.turnTo('2027-05-09');
  const { state } = await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`);
  expect(state).toBe('ended');
});
