import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import { takeLetters } from '../notices/letters.sql.ts';
import { Claims, GiveBack } from './claim.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

const DAY = '2027-01-04';
/** Numbers from 1 as items of a step. */
const numbers = (count: number, step: string) => ({
  businessDate: DAY,
  ...{ step, at: 0, size: 50, bound: { count } },
  due: `select n::text as item from generate_series(1, $count::int) n where $businessDate::date is not null`,
});
const claimsOf = (count: number, step: string, leaseMs = 60_000) =>
  new Claims(world.almanac.db, numbers(count, step), randomUUID(), leaseMs);

/** Lets the planner believe that a table is empty, as it does for a while after it was: then it joins row by row. */
const believedEmpty = async (table: string) => {
  const { sequelize } = world.almanac.db;
  await sequelize.query(`delete from ${table}`);
  await sequelize.query(`analyze ${table}`);
};

test('a batch is claimed at a time, however the planner joins', async () => {
  await claimsOf(200, 'one by one').plan(1);
  await believedEmpty('run_batches');
  const [one, other] = [claimsOf(200, 'one by one'), claimsOf(200, 'one by one')];
  const { mine } = await one.plan(1);
  expect(mine.map(({ place }) => place)).toEqual([0]);
  expect((await other.claim())?.place).toBe(1);
  expect((await one.claim())?.place).toBe(2);
  const claimed = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from run_batches where step = 'one by one' and claimed_by is not null`,
  );
  expect(claimed).toEqual({ n: 3 });
});

test('letters are taken as many as asked for, however the planner joins', async () => {
  const { almanac } = world;
  const write = () =>
    almanac.db.rows(
      `insert into staff_letters (once_key, to_address, kind, delivery, subject, html, plain)
     select 'l' || n, 'person' || n || '@post.example', 'summary', 'at once', 'A letter', '<p>Text</p>', 'Text'
     from generate_series(1, 30) n`,
    );
  await write();
  await believedEmpty('staff_letters');
  await write();
  expect(await takeLetters(almanac, 'staff_letters', 7, 60_000)).toHaveLength(7);
  expect(await takeLetters(almanac, 'staff_letters', 50, 60_000)).toHaveLength(23);
});

test('what a worker held that fell silent is claimed by another', async () => {
  const [silent, other] = [claimsOf(100, 'silent', 1), claimsOf(100, 'silent')];
  await silent.plan(1);
  const second = await other.claim();
  // The lease of the first was over at once: it is the second claim that finds it free.
  const places = [second?.place, (await other.claim())?.place].toSorted();
  expect(places).toEqual([0, 1]);
});

test('a batch waits for those before it', async () => {
  const [one, other] = [claimsOf(100, 'in order'), claimsOf(100, 'in order')];
  const first = (await one.plan(1)).mine[0];
  const second = await other.claim();
  if (!first || !second) throw new Error('Two batches were to be claimed.');
  let waited = true;
  const waiting = other.earlierDone(second, new AbortController().signal).finally(() => {
    waited = false;
  });
  await one.isOpen();
  expect(waited).toBe(true);
  await one.finish(first);
  await waiting;
});

test('where a batch before has no worker, whoever waits gives its own back, and both can be claimed again', async () => {
  const [one, other] = [claimsOf(150, 'left'), claimsOf(150, 'left')];
  const first = (await one.plan(1)).mine[0];
  const second = await other.claim();
  if (!first || !second) throw new Error('Two batches were to be claimed.');
  await one.giveBack(first);
  await expect(other.earlierDone(second, new AbortController().signal)).rejects.toBeInstanceOf(GiveBack);
  await other.giveBack(second);
  // What another holds, or has done, is nobody's to give back.
  await one.giveBack(second);
  const places = [await one.claim(), await one.claim(), await one.claim()].map((batch) => batch?.place);
  expect(places).toEqual([0, 1, 2]);
  expect(await one.claim()).toBeNull();
});
