import { afterAll, beforeAll, beforeEach, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { clockDate } from './clockDate.ts';
import { keepUp } from './turnPages.ts';

/*
 * A business that runs by the clock, in London, with a clock that the test moves.
 */
let world: World;
let now = new Date(0);
let almanac: Almanac;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  almanac = { ...world.almanac, clock: () => now };
});
afterAll(() => world.end());
beforeEach(async () => {
  await world.almanac.db.rows(
    'truncate customers, days, page_turns, run_batches, planned_charges, day_sums cascade',
  );
});

/** The clock stands at an instant, and the worker looks. */
async function at(instant: string | number): Promise<void> {
  now = new Date(instant);
  await keepUp(almanac, now);
}
async function beginOn(date: string): Promise<void> {
  await almanac.db.rows('update business set business_date = $date, practice = false', { date });
}
const today = async () => (await Business.findOne({ rejectOnEmpty: true })).businessDate;
const chargedOn = async () =>
  (
    await almanac.db.rows<{ day: string; n: number }>(
      'select paid_on as day, count(*)::int as n from payments group by 1 order by 1',
    )
  ).map(({ day, n }) => `${day} ${n}`);

test.each([
  ['2027-03-27T23:59:59Z', '2027-03-27'],
  ['2027-03-28T00:00:00Z', '2027-03-28'],
  // Clocks have gone forward: midnight in London is at 23:00 in Greenwich.
  ['2027-03-28T22:59:59Z', '2027-03-28'],
  ['2027-03-28T23:00:00Z', '2027-03-29'],
  ['2027-10-30T22:59:59Z', '2027-10-30'],
  ['2027-10-30T23:00:00Z', '2027-10-31'],
  // They have gone back: the hour from one to two is there twice, and the day has 25.
  ['2027-10-31T23:59:59Z', '2027-10-31'],
  ['2027-11-01T00:00:00Z', '2027-11-01'],
])('at %s it is %s in London', (instant, date) => {
  expect(clockDate('Europe/London', new Date(instant))).toBe(date);
});

test.each([
  ['2027-03-26', ['2027-03-26', '2027-03-27', '2027-03-28', '2027-03-29']],
  ['2027-10-29', ['2027-10-29', '2027-10-30', '2027-10-31', '2027-11-01']],
])(
  'over a change of summer time from %s each day is turned once, looked at every hour',
  async (from, days) => {
    await beginOn(from);
    await world.enrol([{}, {}], { interval: 'P1D' });
    const start = Date.parse(`${from}T00:30:00Z`);
    for (let hour = 0; hour < 4 * 24 - 1; hour += 1) {
      await at(start + hour * 3_600_000);
      expect(await today()).toBe(clockDate('Europe/London', now));
    }
    expect(await chargedOn()).toEqual(days.map((day) => `${day} 2`));
    const closed = await almanac.db.rows<{ day: string }>(
      'select business_date as day from days where finished_at is not null order by 1',
    );
    expect(closed.map(({ day }) => day)).toEqual(expect.arrayContaining(days.slice(0, -1)));
  },
);

test('after three days switched off every day is turned, in its order; a clock that is set back turns nothing twice', async () => {
  await beginOn('2027-06-01');
  await world.enrol([{}], { interval: 'P1D' });
  await at('2027-06-01T09:00:00Z');
  await at('2027-06-05T09:00:00Z');
  const all = ['2027-06-01 1', '2027-06-02 1', '2027-06-03 1', '2027-06-04 1', '2027-06-05 1'];
  expect(await chargedOn()).toEqual(all);
  for (const back of ['2027-06-04T23:00:00Z', '2027-06-02T09:00:00Z', '2020-01-01T00:00:00Z']) {
    await at(back);
    expect(await today()).toBe('2027-06-05');
  }
  await at('2027-06-05T09:01:00Z');
  expect(await chargedOn()).toEqual(all);
});

test('a decline that may pass soon is tried again within hours of the same day, before anybody is written to', async () => {
  await beginOn('2027-07-05');
  const [id = ''] = await world.enrol([{ code: '91', firstTries: 1 }]);
  await at('2027-07-05T08:00:00Z');
  const state = async () =>
    (await almanac.db.row<{ state: string }>('select state from subscriptions where id = $id', { id }))
      ?.state;
  expect(await state()).toBe('overdue');
  await at('2027-07-05T09:00:00Z');
  expect(await chargedOn(), 'an hour later it is not tried yet').toEqual([]);
  await at('2027-07-05T10:01:00Z');
  expect(await chargedOn()).toEqual(['2027-07-05 1']);
  expect(await state()).toBe('active');
  const told = await almanac.db.rows<{ event: string }>(
    `select event from letters where subscription_id = $id and event not in ('started', 'receipt')`,
    { id },
  );
  expect(told.map(({ event }) => event).filter((event) => /declin|fail|remind/.test(event))).toEqual([]);
});

test('today is looked at again every minute, and what is added meanwhile is charged on it', async () => {
  await beginOn('2027-08-02');
  await at('2027-08-02T08:00:00Z');
  await world.enrol([{}, {}, {}]);
  await at('2027-08-02T08:01:00Z');
  expect(await chargedOn()).toEqual(['2027-08-02 3']);
  await at('2027-08-02T08:02:00Z');
  expect(await chargedOn()).toEqual(['2027-08-02 3']);
});
