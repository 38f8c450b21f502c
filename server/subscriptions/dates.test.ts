import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { lettersWhere } from '../../testing/letters.ts';
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

const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
const plus = (date: string, days: number) => formatDay(toDay(date) + days);
const collected = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select p.paid_on || ' for ' || i.period_from || ' ' || p.amount as said
       from payments p join invoices i on i.id = p.invoice_id where i.subscription_id = $id order by p.id`,
      { id },
    )
  ).map(({ said }) => said);
const stateOf = async (id: string) =>
  (await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`)).state;

test('what is shown for the Friday before is charged on the Friday before', async () => {
  const workingDays = { shift: 'previous', weekend: ['sat', 'sun'] };
  const { rateId } = await offering.plan({ name: 'Early' }, { lines, interval: 'P1W', workingDays });
  // 10 January 2027 is a Sunday.
  const id = await offering.enrolled(rateId, { starts: '2027-01-10' });
  const { coming } = await offering.done<{ coming: { dueOn: string }[] }>('get', `/api/subscriptions/${id}`);
  expect(coming.slice(0, 3).map(({ dueOn }) => dueOn)).toEqual(['2027-01-08', '2027-01-15', '2027-01-22']);
  await world.turnTo('2027-01-09');
  expect(await stateOf(id)).toBe('scheduled');
  expect(await collected(id)).toEqual(['2027-01-08 for 2027-01-10 1200']);
  await world.turnTo('2027-01-23');
  expect(await stateOf(id)).toBe('active');
  expect(await collected(id)).toEqual([
    '2027-01-08 for 2027-01-10 1200',
    '2027-01-15 for 2027-01-17 1200',
    '2027-01-22 for 2027-01-24 1200',
  ]);
  // What is altered after the Friday lies beyond the period that was charged on it.
  const effect = await offering.done<{ after: { from: string }[] }>(
    'post',
    `/api/subscriptions/${id}/effect`,
    {
      ...{ kind: 'pause', periods: 1 },
    },
  );
  expect(effect.after[0]?.from).toBe('2027-02-07');
});

test('an amount agreed to for a day after the end is charged on its day', async () => {
  const start = await offering.today();
  const [id = ''] = await world.enrol([{}], { interval: 'P1W', ends: { after: 2 }, lines });
  await world.almanac.db.rows(
    `update subscriptions set terms = jsonb_set(terms, '{once}', $once::jsonb) where id = $id`,
    { id, once: JSON.stringify([{ name: 'Exam', amount: '30.00', date: plus(start, 20) }]) },
  );
  await world.turnTo(plus(start, 16));
  expect(await stateOf(id)).toBe('ended');
  await world.turnTo(plus(start, 22));
  expect(await collected(id)).toEqual([
    `${start} for ${start} 1200`,
    `${plus(start, 7)} for ${plus(start, 7)} 1200`,
    `${plus(start, 20)} for ${plus(start, 20)} 3000`,
  ]);
  expect(await stateOf(id)).toBe('ended');
});

test('what costs nothing starts, also where payments have a term', async () => {
  const free = [{ name: 'Friend', price: { scheme: 'flat', amount: '0.00' } }];
  const { rateId } = await offering.plan({ name: 'Friends' }, { lines: free, terms: 'P14D' });
  const id = await offering.enrolled(rateId);
  await world.turnTo(plus(await offering.today(), 3));
  expect(await stateOf(id)).toBe('active');
  const started = `l.subscription_id = $id and l.event = 'started'`;
  const [letter] = await lettersWhere(world.almanac, started, { id });
  expect(letter?.plain).toContain('Nothing is charged for it.');
  expect(await world.almanac.db.rows('select 1 from needs where subscription_id = $id', { id })).toEqual([]);
});
