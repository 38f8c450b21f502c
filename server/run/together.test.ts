import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import { turnDay } from './turnDay.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

/** The invoices of a day by the order of enrolment: their places in the series, and whether they are paid. */
const invoicesOf = (day: string) =>
  world.almanac.db.rows<{ number: number; state: string }>(
    'select number::int, state from invoices where issued_on = $day order by subscription_id',
    { day },
  );
const numbered = (from: number, count: number) =>
  Array.from({ length: count }, (_, i) => ({ number: from + i, state: 'paid' }));

test('whether one, two or four workers turn a day, each customer is invoiced under the same number and charged once', async () => {
  const PEOPLE = 160;
  await world.enrol(Array.from({ length: PEOPLE }, () => ({})));
  const { db } = world.almanac;
  const days = [
    ['2027-01-04', 4],
    ['2027-02-04', 2],
    ['2027-03-04', 1],
  ] as const;
  for (const [month, [day, workers]] of days.entries()) {
    await db.rows('update business set business_date = $day', { day });
    await Promise.all(Array.from({ length: workers }, () => turnDay(world.almanac, day)));
    expect(await invoicesOf(day), `${workers} workers`).toEqual(numbered(1 + month * PEOPLE, PEOPLE));
  }
  const charges = await world.chargesAtGateway();
  expect(charges).toHaveLength(PEOPLE * days.length);
  expect(new Set(charges.map(({ idempotencyKey }) => idempotencyKey)).size).toBe(charges.length);
  const books = await db.rows<{ kind: string; holds: string }>(
    `select a.kind, sum(l.amount)::text as holds from journal_lines l join accounts a on a.id = l.account_id
     group by a.kind order by a.kind`,
  );
  const all = PEOPLE * days.length * 1000;
  expect(books).toEqual([
    { kind: 'clearing', holds: String(all) },
    { kind: 'receivable', holds: '0' },
    { kind: 'sales', holds: String(-all) },
  ]);
  expect(await db.rows('select 1 from run_batches'), 'no claim is left').toEqual([]);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('a gateway that asks for fewer questions gets fewer: every charge is made, and nobody is declined or waits', async () => {
  const { db } = world.almanac;
  await db.rows(`update business set business_date = '2027-04-04'`);
  await world.misbehave({ chargesAnswer: { status: 429, times: 3, page: false } });
  await turnDay(world.almanac, '2027-04-04');
  await world.misbehave({});
  const states = await db.rows<{ state: string; n: number }>(
    `select state, count(*)::int as n from invoices where issued_on = '2027-04-04' group by 1`,
  );
  expect(states).toEqual([{ state: 'paid', n: 160 }]);
  expect(await db.rows('select 1 from recovery_cases')).toEqual([]);
});
