import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { weekdayOnOrAfter } from '../../core/dates/weekday.ts';
import { FIRST_DAY, World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { makeApp } from '../http/app.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { readDaySheet, readRail, readSpan } from '../run/daySheet.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { askForWaiting } from '../run/turnDay.ts';
import { foresightIsWhatTermsSay, mendForesight } from '../verify/foresight.ts';
import { verify } from '../verify/verify.ts';
import { noteLawChanged } from './altered.ts';
import { foldDaySums, readDaySums } from './daySums.sql.ts';
import { followLaw } from './lawChanges.ts';
import { lastForeseen } from './planned.sql.ts';
import { walkAhead } from './walkAhead.ts';

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
  const planned = ((await walkAhead(world.almanac, FIRST_DAY, LAST)) ?? []).map(
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
    expect([date, sheet.collected.total, sheet.failed.total]).toEqual([date, collected, declined]);
  }
});

test('a span of days comes to what its days come to', async () => {
  const span = await readSpan(world.almanac, '2027-01-01', '2027-04-30');
  const expected = await world.almanac.db.row<{ n: number; sum: string }>(
    `select count(*)::int as n, sum(amount)::text as sum from payments where paid_on between '2027-01-01' and '2027-04-30'`,
  );
  const [pounds] = span.currencies;
  expect(pounds?.collected).toEqual({ payments: expected?.n, amount: expected?.sum });
  const ahead = (await walkAhead(world.almanac, '2027-04-01', '2027-04-30')) ?? [];
  expect(pounds?.planned.payments).toBe(ahead.length);
  expect(BigInt(pounds?.planned.amount ?? 0)).toBe(
    ahead.reduce((sum, { amount }) => sum + BigInt(amount), 0n),
  );
  expect(span.foreseenUntil).toBeNull();
  const far = await readSpan(world.almanac, '2027-04-01', '2027-12-31');
  expect(far.foreseenUntil).toBe(lastForeseen('2027-04-01'));
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

const breaches = async () => (await verify(world.almanac)).flatMap((finding) => finding.breaches);
const plannedOn = async (date: string) => (await readRail(world.almanac, date, date))[0];

test('the rail shows altered terms at once, and what lapses is planned no more', async () => {
  const [id = ''] = await world.enrol([{}], { interval: 'P1W' });
  const subscription = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const due = formatDay(toDay(subscription.startsOn) + 7);
  const before = await plannedOn(due);
  const { db } = world.almanac;
  await db.transaction(async (within) => {
    const lines = [{ name: 'Sample', price: { scheme: 'flat' as const, amount: '17.00' } }];
    await subscription.update({ terms: { ...subscription.terms, lines } as never }, { transaction: within });
  });
  const after = await plannedOn(due);
  expect(after?.planned).toBe(before?.planned);
  const sum = (day: typeof after) => BigInt(day?.sums[0]?.planned ?? 0);
  expect(sum(after) - sum(before)).toBe(700n);
  await db.transaction((within) =>
    subscription.update({ state: 'lapsed', wakeOn: null }, { transaction: within }),
  );
  const gone = await plannedOn(due);
  expect(sum(before) - sum(gone)).toBe(1000n);
  expect(gone?.planned).toBe((before?.planned ?? 0) - 1);
});

test('what a transaction takes back is not foreseen', async () => {
  const sums = () => readDaySums(world.almanac, '2027-04-01', '2027-07-31');
  const before = await sums();
  const alter = world.almanac.db.transaction(async (within) => {
    const all = await Subscription.findAll({ where: { state: 'active' }, transaction: within });
    for (const one of all) await one.update({ state: 'lapsed', wakeOn: null }, { transaction: within });
    throw new Error('taken back');
  });
  await expect(alter).rejects.toThrow('taken back');
  expect(await sums()).toEqual(before);
});

test('a law that changes is followed by all subscriptions, and until then nobody calls what is stored wrong', async () => {
  const { db } = world.almanac;
  const { app } = makeApp(world.almanac, world.almanac.config, '/nowhere');
  const ask = asking(app, (await signedIn(world, 'owner')).cookie);
  const value = {
    name: 'VAT',
    rates: [
      { percent: '20', mode: 'exclusive', country: null, region: '', validFrom: '2027-04-21', validTo: null },
    ],
  };
  const { id } = (await ask('post', '/api/taxes', { value })).body;
  const [taxed = ''] = await world.enrol([{}], { interval: 'P1W' });
  await db.transaction(async (within) => {
    const subscription = await Subscription.findByPk(taxed, { transaction: within, rejectOnEmpty: true });
    await subscription.update({ taxId: id }, { transaction: within });
  });
  const amounts = async () =>
    (
      await db.rows<{ amount: string }>(
        'select distinct amount from planned_charges where subscription_id = $taxed',
        { taxed },
      )
    ).map(({ amount }) => amount);
  expect(await amounts()).toEqual(['1200']);
  const rates = [...value.rates.map((rate) => ({ ...rate, percent: '25' }))];
  expect((await ask('put', `/api/taxes/${id}`, { version: 1, value: { ...value, rates } })).status).toBe(200);
  expect(await amounts()).toEqual(['1200']);
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  expect((await readDaySheet(world.almanac, businessDate)).foreseeing).not.toBeNull();
  expect((await foresightIsWhatTermsSay(world.almanac)).breaches).toEqual([]);
  // As two workers do it.
  const { signal } = new AbortController();
  await Promise.all([followLaw(world.almanac, signal), followLaw(world.almanac, signal)]);
  expect(await amounts()).toEqual(['1250']);
  expect((await readDaySheet(world.almanac, businessDate)).foreseeing).toBeNull();
  expect(await breaches()).toEqual([]);
});

test('one whose terms cannot be read stops nobody from following a law, and is named on the day sheet', async () => {
  const { db } = world.almanac;
  const [bad = '', good = ''] = await world.enrol([{}, {}], { interval: 'P1W' });
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  await db.rows(
    `update subscriptions set terms = jsonb_set(terms, '{interval}', '"nonsense"') where id = $bad`,
    { bad },
  );
  await db.rows('update subscriptions set monthly = 1 where id = $good', { good });
  await db.transaction((within) => noteLawChanged(world.almanac, within));
  await followLaw(world.almanac, new AbortController().signal);
  await askForWaiting(world.almanac, businessDate, undefined);
  expect(await db.row('select reached from law_changes')).toEqual({ reached: null });
  expect(
    await db.row('select monthly <> 1 as followed from subscriptions where id = $good', { good }),
  ).toEqual({ followed: true });
  const { needs } = await readDaySheet(world.almanac, businessDate);
  expect(needs.some(({ subscriptionId }) => subscriptionId === bad)).toBe(true);
  // What is only shown holds nobody back, is not asked again every minute, and is no foresight under way.
  expect(
    await db.row('select held_on, foresee_on > $businessDate as later from subscriptions where id = $bad', {
      bad,
      businessDate,
    }),
  ).toEqual({ held_on: null, later: true });
  expect((await readDaySheet(world.almanac, businessDate)).foreseeing).toBeNull();
  expect((await foresightIsWhatTermsSay(world.almanac)).breaches).toEqual([
    `the terms of subscription ${bad} cannot be read`,
  ]);
  await db.rows(`update subscriptions set terms = jsonb_set(terms, '{interval}', '"P1W"') where id = $bad`, {
    bad,
  });
  await askForWaiting(world.almanac, businessDate, undefined);
  expect(await breaches()).toEqual([]);
});

test('sums are folded without losing what is added meanwhile, and read the same before and after', async () => {
  const { db } = world.almanac;
  const all = () => readDaySums(world.almanac, '2026-01-01', '2028-12-31');
  const before = await all();
  await db.transaction(async (within) => {
    await db.rows(`insert into day_sums values ('2027-09-09', 'planned', 'GBP', 3, 900)`, {}, within);
    // Another folds while this is under way: it neither waits for it nor loses it.
    await foldDaySums(world.almanac);
    expect(await all()).toEqual(before);
    await db.rows(`insert into day_sums values ('2027-09-09', 'planned', 'GBP', -1, -300)`, {}, within);
  });
  const added = { date: '2027-09-09', kind: 'planned', currency: 'GBP', payments: 2, amount: '600' };
  expect(await all()).toEqual(
    [...before, added].sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : 0)),
  );
  await Promise.all([foldDaySums(world.almanac), foldDaySums(world.almanac)]);
  expect((await all()).find(({ date }) => date === '2027-09-09')).toEqual(added);
  await db.rows(`delete from day_sums where on_day = '2027-09-09'`);
  const rows = await db.row<{ n: number }>('select count(*)::int as n from day_sums');
  expect(rows?.n).toBe(before.length);
});

test('whatever is damaged of what is stored ahead is named, and mended by computing it anew', async () => {
  const { db } = world.almanac;
  await db.rows('update subscriptions set next_amount = 1, monthly = 1');
  await db.rows('delete from planned_charges where subscription_id % 2 = 0');
  await db.rows('update planned_charges set amount = amount + 1');
  await db.rows('delete from day_sums');
  expect((await breaches()).length).toBeGreaterThan(5);
  await mendForesight(world.almanac);
  expect(await breaches()).toEqual([]);
});

test('further ahead than what is stored, days are walked to while there are few, and say so where there are many', async () => {
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  const reach = lastForeseen(businessDate);
  const beyond = formatDay(toDay(reach) + 1);
  const until = formatDay(toDay(reach) + 20);
  const walked = await readRail(world.almanac, formatDay(toDay(reach) - 20), until);
  const expected = (await walkAhead(world.almanac, formatDay(toDay(reach) - 20), until)) ?? [];
  expect(expected.some(({ date }) => date >= beyond) && expected.some(({ date }) => date < beyond)).toBe(
    true,
  );
  for (const { date, planned, sums, isForeseen } of walked) {
    const own = expected.filter((payment) => payment.date === date);
    expect([date, planned, BigInt(sums[0]?.planned ?? 0), isForeseen]).toEqual([
      date,
      own.length,
      own.reduce((sum, { amount }) => sum + BigInt(amount), 0n),
      true,
    ]);
  }
  // The sheet of a day beyond names them.
  const due = expected.find(({ date }) => date >= beyond)?.date ?? '';
  const sheet = await readDaySheet(world.almanac, due);
  expect(sheet.isForeseen).toBe(true);
  expect(
    sheet.planned.rows.map(({ subscriptionId, amount }) => `${subscriptionId} ${amount}`).sort(),
  ).toEqual(
    expected
      .filter(({ date }) => date === due)
      .map(({ subscriptionId, amount }) => `${subscriptionId} ${amount}`)
      .sort(),
  );
  // An invoice that is open and falls due beyond is on the rail as well.
  const { db } = world.almanac;
  const open = await db.row<{ id: string }>(
    `update invoices set state = 'issued', collected = 0, due_on = $until, case_id = null
     where id = (select id from invoices where state = 'paid' and total > 0 order by id limit 1) returning id::text`,
    { until },
  );
  const [with1] = await readRail(world.almanac, until, until);
  const [without] = walked.filter(({ date }) => date === until);
  expect((with1?.planned ?? 0) - (without?.planned ?? 0)).toBe(1);
  await db.rows(
    `update invoices set state = 'paid', collected = total - credit_used, due_on = issued_on where id = $id`,
    {
      id: open?.id ?? '',
    },
  );
  // With very many nobody waits for a walk: what is not known is said to be.
  await db.rows(
    `insert into subscriptions (reference, customer_id, rate_id, terms, state, starts_on, wake_on, enrolled_on, foresee_on)
     select 'many-' || n, s.customer_id, s.rate_id, s.terms, 'active', s.starts_on, $businessDate, s.enrolled_on, null
     from (select * from subscriptions order by id limit 1) s, generate_series(1, 2001) n`,
    { businessDate },
  );
  expect((await readRail(world.almanac, until, until))[0]?.isForeseen).toBe(false);
  expect((await readDaySheet(world.almanac, until)).isForeseen).toBe(false);
  expect((await readDaySheet(world.almanac, businessDate)).isForeseen).toBe(true);
  await db.rows(`delete from subscriptions where reference like 'many-%'`);
});

test('several payments of one subscription on a day are one row that says so, and nothing more is offered', async () => {
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  // Saturday, Sunday and Monday are all due on the Monday.
  const day = formatDay(weekdayOnOrAfter(toDay(businessDate) + 7, 0));
  const workingDays = { shift: 'next', weekend: ['sat', 'sun'], holidays: [] };
  const [id = ''] = await world.enrol([{}], { interval: 'P1D', workingDays });
  const { planned } = await readDaySheet(world.almanac, day);
  const own = planned.rows.filter(({ subscriptionId }) => subscriptionId === id);
  expect(own).toMatchObject([{ payments: 3, amount: '3000' }]);
  expect(planned.total).toBe(planned.rows.reduce((sum, { payments }) => sum + payments, 0));
  expect(planned.more).toBe(false);
  expect((await plannedOn(day))?.planned).toBe(planned.total);
});
