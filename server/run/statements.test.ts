import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { statementsOf } from '../../testing/statementsOf.ts';
import { World } from '../../testing/world.ts';
import { turnDay } from './turnDay.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

test('a batch takes as many statements for forty renewals as for four', async () => {
  const people = new Map([
    ['2027-01-05', 4],
    ['2027-01-06', 40],
  ]);
  for (const [day, count] of people) {
    await world.turnTo(day);
    await world.enrol(
      Array.from({ length: count }, () => ({})),
      { interval: 'P1W' },
    );
  }
  const counts: number[] = [];
  for (const [day, count] of [
    ['2027-01-12', 4],
    ['2027-01-13', 40],
  ] as const) {
    await world.turnTo(day);
    const asked = await statementsOf(world.almanac.db, () => turnDay(world.almanac, day));
    // A batch that takes long on a busy machine is said to be held on to, every few seconds.
    counts.push(asked.filter((one) => !/^update run_batches set claimed_until/.test(one.trim())).length);
    const paid = await world.almanac.db.row('select count(*)::int as n from payments where paid_on = $day', {
      day,
    });
    expect(paid).toEqual({ n: count });
  }
  const [four, forty] = counts;
  expect(forty).toBe(four);
  expect(four).toBeLessThanOrEqual(62);
});

test('a day that is looked at again and has nothing due takes three statements', async () => {
  await world.turnTo('2027-01-14');
  await turnDay(world.almanac, '2027-01-14', { closing: false });
  const asked = await statementsOf(world.almanac.db, () =>
    turnDay(world.almanac, '2027-01-14', { closing: false }),
  );
  expect(asked.map((statement) => statement.trim().split(/\s+/, 3).join(' '))).toEqual([
    'insert into days',
    'with due0 as',
    'update days set',
  ]);
});
