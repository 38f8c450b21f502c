import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { FIRST_DAY, World } from '../../testing/world.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { readDaySheet, readRail } from './daySheet.ts';
import { plannedPayments } from './forecast.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

const LAST = '2027-03-31';

test('what was planned is what is then collected, day by day and to the penny', async () => {
  await world.enrol([{}, {}], {
    interval: 'P10D',
    trial: { length: 'P5D' },
    setup: { amount: '3.33', when: 'after-trial' },
  });
  await world.enrol([{}], {
    interval: 'P1M',
    on: { nth: 1, weekday: 'mon' },
    terms: 'P7D',
    tax: { rate: '20', mode: 'exclusive' },
  });
  await world.enrol([{}], {
    interval: 'P1M',
    ends: { after: 2 },
    discounts: [{ percent: '33.3', payments: 1 }],
  });
  await world.enrol([{}], {
    interval: 'P2W',
    pauses: [{ from: '2027-02-01', to: '2027-03-01', resume: 'restart' }],
  });
  const planned = (await plannedPayments(world.almanac, FIRST_DAY, LAST)).map(
    ({ date, amount, subscriptionId }) => `${date} ${subscriptionId} ${amount}`,
  );
  await world.turnTo(formatDay(toDay(LAST) + 1));
  const collected = await world.almanac.db.rows<{ says: string }>(
    `select p.paid_on || ' ' || i.subscription_id || ' ' || p.amount as says
     from payments p join invoices i on i.id = p.invoice_id order by p.paid_on, i.subscription_id`,
  );
  expect(collected.length).toBeGreaterThan(20);
  expect(collected.map(({ says }) => says).sort()).toEqual(planned.sort());
});

test('the rail and the sheets of its days say the same', async () => {
  for (const { date, collected, declined } of await readRail(world.almanac, '2027-01-01', '2027-01-31')) {
    const sheet = await readDaySheet(world.almanac, date);
    expect([date, sheet.collected.length, sheet.failed.length]).toEqual([date, collected, declined]);
  }
});

test('a fixed term that has run its course is completed, and a pause is shown while it lasts', async () => {
  const states = await world.almanac.db.rows<{ ended_why: string }>(
    `select ended_why from subscriptions where state = 'ended'`,
  );
  expect(states).toEqual([{ ended_why: 'completed' }]);
  const [id = ''] = await world.enrol([{}], {
    interval: 'P1W',
    pauses: [{ from: '2027-04-03', to: '2027-04-20' }],
  });
  const state = async () => (await Subscription.findByPk(id, { rejectOnEmpty: true })).state;
  await world.turnTo('2027-04-03');
  expect(await state()).toBe('active');
  await world.turnTo('2027-04-04');
  expect(await state()).toBe('paused');
  await world.turnTo('2027-04-21');
  expect(await state()).toBe('active');
});
