import fc from 'fast-check';
import { afterAll, afterEach, beforeAll, beforeEach, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { InvoicePage } from '../invoices/messages.ts';
import { verify } from '../verify/verify.ts';
import type { AlterationEffect, PlannedChange } from './alterMessages.ts';

// Invoices that are issued some days before their period begins, and what becomes of them where something changes meanwhile.

let world: World;
let offering: Offering;
/** 30.00 a month for each, invoiced ten days before, paid by hand within a week; and the same on its day. */
let early: string;
let usual: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const terms = { lines: [{ name: 'Hive', price: { scheme: 'each', amount: '30.00' } }], terms: 'P7D' };
  const methods = { methods: ['invoice', 'card'] };
  const told = { issueDaysBefore: 10, noticeDays: 3 };
  ({ rateId: early } = await offering.plan({ name: 'Early' }, terms, { ...methods, ...told }));
  ({ rateId: usual } = await offering.plan({ name: 'Usual' }, terms, methods));
});
afterAll(() => world.end());

let start: string;
afterEach(() => world.misbehave({}));
beforeEach(async () => {
  // Every test begins on the first of a month of thirty days or more.
  do await world.turnTo(await offering.later(1));
  while (!/-(03|05|07|08|10|12)-01$/.test(await offering.today()));
  start = await offering.today();
});
/** The day so many months after the start, moved by days. */
const on = (months: number, days = 0): string => {
  const [year = 0, month = 0] = start.split('-').map(Number);
  return new Date(Date.UTC(year, month - 1 + months, 1 + days)).toISOString().slice(0, 10);
};
interface Row {
  id: string;
  from: string;
  total: string;
  issued: string;
  due: string;
  state: string;
  credit: string;
}
const rows = (subscriptionId: string, condition = 'true') =>
  world.almanac.db.rows<Row>(
    `select id::text, period_from as "from", total::text, issued_on as issued, due_on as due, state, credit_used::text as credit
     from invoices where subscription_id = $subscriptionId and ${condition} order by invoices.id`,
    { subscriptionId },
  );
/** What is invoiced and stands, by the days that it begins. */
const standing = async (id: string) =>
  (await rows(id, 'not taken_back and total > 0')).map(({ from, total }) => `${from} ${total}`).toSorted();
const alter = (id: string, asked: object) =>
  offering.done<AlterationEffect>('post', `/api/subscriptions/${id}/alter`, asked);
const effect = (id: string, asked: object) =>
  offering.done<AlterationEffect>('post', `/api/subscriptions/${id}/effect`, asked);
const quantity = (n: number, from = 'renewal') => ({ kind: 'quantity', quantity: n, from });
const byHand = (quantity = 2) => offering.enrolled(early, { pays: 'invoice', quantity }, false);
const holds = async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
};
const take = async (id: string, amount: string) => {
  const { customerId } = await offering.done<InvoicePage>('get', `/api/invoices/${id}`);
  const received = {
    means: 'cash',
    currency: 'GBP',
    amount,
    receivedOn: await offering.today(),
    invoices: [id],
  };
  await offering.done('post', `/api/customers/${customerId}/takings`, { ...received, over: '0' });
};

test('a period is invoiced so many days before it begins, is due when it always was, and is told of before', async () => {
  const [hand, same] = [
    await byHand(),
    await offering.enrolled(usual, { pays: 'invoice', quantity: 2 }, false),
  ];
  const card = await offering.enrolled(early, { quantity: 1 });
  // A day is over when its page is turned.
  await world.turnTo(on(1, -10));
  expect(await standing(hand)).toEqual([`${start} 6000`]);
  await world.turnTo(on(1, -9));
  const [, next] = await rows(hand);
  expect(next).toMatchObject({ from: on(1), issued: on(1, -10), due: on(1, 7), state: 'issued' });
  const asked = await lettersWhere(
    world.almanac,
    `l.subscription_id = $hand and l.event = 'invoice to pay'`,
    {
      hand,
    },
  );
  expect(asked.map((letter) => letter.on)).toEqual([start, on(1, -10)]);
  // Three days' notice would come after the invoice: it is given on the day before that.
  const notice = await lettersWhere(
    world.almanac,
    `l.subscription_id = $hand and l.event = 'renewal coming'`,
    { hand },
  );
  expect(notice.map((letter) => letter.on)).toEqual([on(1, -11)]);
  await world.turnTo(on(1, 8));
  expect(await standing(hand)).toEqual(await standing(same));
  // What is charged by itself is charged on its day, not when it is issued.
  const charged = await world.almanac.db.row<{ on: string }>(
    `select a.attempted_on as "on" from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $card and i.period_from = $from`,
    { card, from: on(1) },
  );
  expect(charged?.on).toBe(on(1, 7));
  await holds();
});

test('what changes before it begins is shown, and corrected by a credit note and a new invoice in one act', async () => {
  const id = await byHand();
  await world.turnTo(on(1, -8));
  const [, old] = await rows(id);
  const shown = await effect(id, quantity(5));
  expect(shown).toMatchObject({
    takenBack: [{ number: expect.any(String), total: '6000', toCredit: '0' }],
    issuesAnew: true,
    effectiveOn: on(1),
  });
  expect(shown.after[0]).toMatchObject({ from: on(1), due: '15000' });
  expect(await standing(id), 'nothing was done yet').toEqual([`${start} 6000`, `${on(1)} 6000`]);
  expect(await alter(id, quantity(5))).toEqual(shown);
  expect(await standing(id)).toEqual([`${start} 6000`, `${on(1)} 15000`]);
  const [, withdrawn, fresh] = await rows(id);
  expect(withdrawn).toMatchObject({ id: old?.id, state: 'withdrawn' });
  expect(fresh).toMatchObject({ from: on(1), issued: on(1, -8), due: on(1, 7), state: 'issued' });
  const note = await world.almanac.db.row<{ kind: string; reason: string }>(
    'select kind, reason from credit_notes where invoice_id = $id',
    { id: old?.id ?? '' },
  );
  expect(note).toMatchObject({
    kind: 'withdrawal',
    reason: expect.stringContaining('Changed before it began'),
  });
  const letters = await lettersWhere(world.almanac, `l.subscription_id = $id and l.written_on = $today`, {
    ...{ id, today: on(1, -8) },
  });
  expect(letters.map(({ event }) => event).sort()).toEqual([
    'credit note',
    'invoice to pay',
    'subscription altered',
  ]);
  // A change that leaves it as it is leaves it.
  const later = await alter(id, { kind: 'cancel', when: 'after payments', payments: 4 });
  expect(later).toMatchObject({ takenBack: [], issuesAnew: false });
  expect(await standing(id)).toEqual([`${start} 6000`, `${on(1)} 15000`]);
  await take((await rows(id))[0]?.id ?? '', '6000');
  await world.turnTo(on(2, -9));
  expect(await standing(id)).toEqual([`${start} 6000`, `${on(1)} 15000`, `${on(2)} 15000`]);
  await holds();
});

test('two who change it at once are done one after the other: one invoice of its period stands, the others are credited', async () => {
  const id = await byHand();
  await world.turnTo(on(1, -8));
  await Promise.all([3, 4, 5].map((n) => alter(id, quantity(n))));
  const [first, stands, ...more] = await standing(id);
  expect([first, more]).toEqual([`${start} 6000`, []]);
  expect([9000, 12_000, 15_000].map((total) => `${on(1)} ${total}`)).toContain(stands);
  expect(await rows(id, `state = 'withdrawn'`)).toHaveLength(3);
  // In parts, it is shown once, and taken back as a whole.
  const [open] = await rows(id, `period_from > '${start}' and state = 'issued'`);
  const parts = { parts: 2, every: 'P1W', firstOn: on(1, 1) };
  await offering.done('post', `/api/invoices/${open?.id}/parts`, parts);
  const shown = await alter(id, quantity(1));
  expect(shown.before.map(({ from }) => from).slice(0, 2)).toEqual([on(1), on(2)]);
  expect(await standing(id)).toEqual([`${start} 6000`, `${on(1)} 3000`]);
  await holds();
});

test('an amount that is added now is invoiced beside it, and leaves it as it is', async () => {
  const id = await byHand();
  await world.turnTo(on(1, -8));
  const [, next] = await rows(id);
  const jar = (name: string) => ({ kind: 'amount', name, amount: '5.00', from: 'now' });
  expect(await alter(id, jar('Jar'))).toMatchObject({ takenBack: [], issuesAnew: false });
  const [, stands, beside] = await rows(id);
  expect(stands, 'as it was').toEqual(next);
  expect(beside).toMatchObject({ from: on(1, -8), total: '500', issued: on(1, -8) });
  // What was invoiced beside it is not invoiced again when it is taken back after all.
  await world.turnTo(on(1, -7));
  expect(await alter(id, jar('Lid'))).toMatchObject({ takenBack: [] });
  expect(await alter(id, quantity(3))).toMatchObject({ takenBack: [{ total: '6000' }], issuesAnew: true });
  expect(await standing(id)).toEqual([
    ...[`${start} 6000`, `${on(1, -8)} 500`, `${on(1, -7)} 500`],
    `${on(1)} 9000`,
  ]);
  await holds();
});

test('what was paid of it already pays for the new one; while it is being charged nothing is changed', async () => {
  const id = await byHand();
  await world.turnTo(on(1, -8));
  const [, old] = await rows(id);
  await take(old?.id ?? '', '2000');
  const ends = { kind: 'cancel', when: 'after payments', payments: 4 };
  expect((await effect(id, ends)).after[0], 'what it still lacks').toMatchObject({
    from: on(1),
    due: '4000',
  });
  await take(old?.id ?? '', '4000');
  // It stands and is paid: it is none of those to come.
  const left = await effect(id, ends);
  for (const coming of [left.before, left.after])
    expect(coming[0]).toMatchObject({ from: on(2), due: '6000' });
  const shown = await alter(id, quantity(1, 'now'));
  expect(shown.takenBack).toEqual([{ number: expect.any(String), total: '6000', toCredit: '6000' }]);
  // The rest of the month gives back; with what was paid it is more than the new one costs.
  const fresh = (await rows(id, 'not taken_back')).at(-1);
  expect(fresh).toMatchObject({ from: on(1), total: '3000', credit: '3000', state: 'paid' });
  await holds();
  // What was credited of it by hand was not paid.
  const spared = await offering.enrolled(early, { quantity: 2 });
  await world.turnTo(await offering.later(24));
  const some = { what: { kind: 'amount', amount: '1000' }, reason: 'A broken lid' };
  await offering.done('post', `/api/invoices/${(await rows(spared)).at(-1)?.id}/credit-notes`, some);
  expect(await alter(spared, quantity(1))).toMatchObject({ takenBack: [{ total: '6000', toCredit: '0' }] });
  await holds();
  // Somebody who is being charged at this moment: nobody knows yet whether it is paid.
  const other = await offering.enrolled(early, { quantity: 2 });
  await world.turnTo(await offering.later(25));
  const open = (await rows(other, `state = 'issued'`)).at(-1);
  const { customerId } = await offering.done<InvoicePage>('get', `/api/invoices/${open?.id}`);
  const [method] = await offering.done<{ id: string }[]>('get', `/api/customers/${customerId}/methods`);
  await world.misbehave({ chargesAnswer: { status: 500 } });
  await offering.ask('post', `/api/customers/${customerId}/charges`, {
    ...{ amount: '6000', invoices: [open?.id], methodId: method?.id },
  });
  for (const where of ['effect', 'alter']) {
    const answer = await offering.ask('post', `/api/subscriptions/${other}/${where}`, quantity(9));
    expect(answer.status).toBe(409);
    expect(answer.body.detail).toContain('is being charged');
  }
});

test('who leaves owes nothing for what has not begun; who stays after all is invoiced anew', async () => {
  const [atEnd, atOnce] = [await byHand(), await byHand()];
  await world.turnTo(on(1, -8));
  const left = await alter(atEnd, { kind: 'cancel', when: 'period end' });
  expect(left).toMatchObject({ takenBack: [{ total: '6000' }], issuesAnew: false, endsOn: on(1) });
  expect(await alter(atOnce, { kind: 'cancel', when: 'now' })).toMatchObject({
    takenBack: [{ total: '6000' }],
  });
  for (const id of [atEnd, atOnce]) expect(await standing(id)).toEqual([`${start} 6000`]);
  const [planned] = await offering.done<PlannedChange[]>('get', `/api/subscriptions/${atEnd}/planned`);
  const back = await offering.done<AlterationEffect>(
    'delete',
    `/api/subscriptions/${atEnd}/planned/${planned?.id}`,
  );
  expect(back.says).toContain('taken back');
  await world.turnTo(on(1, -7));
  expect(await standing(atEnd)).toEqual([`${start} 6000`, `${on(1)} 6000`]);
  await holds();
});

test('who lapses owes nothing for what has not begun; a move of the rate leaves what is issued as it is', async () => {
  const { planId, rateId } = await offering.plan(
    { name: 'Long before' },
    { lines: [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }] },
    { issueDaysBefore: 27 },
  );
  await world.moveCards([{ token: 'never-covered', behaviour: { code: '51' } }]);
  const lapses = await offering.enrolled(rateId, { cardToken: 'never-covered' });
  const goesOn = await offering.enrolled(rateId);
  await world.turnTo(on(0, 10));
  expect(await standing(lapses)).toEqual([`${start} 1200`, `${on(1)} 1200`]);
  const { rates } = await offering.done<{ rates: { version: number; terms: object; options: object }[] }>(
    'get',
    `/api/plans/${planId}`,
  );
  const [rate] = rates;
  const looked = await offering.done<{ effects: { subscriptionId: string; stays: string | null }[] }>(
    'post',
    `/api/rates/${rateId}/effect`,
    {
      version: rate?.version,
      value: {
        ...{ name: 'Only', options: rate?.options },
        terms: { ...rate?.terms, lines: [{ name: 'Row', price: { scheme: 'flat', amount: '15.00' } }] },
      },
      subscribers: { kind: 'date', date: on(0, 20), letterDays: 1, stub: 'prorate' },
    },
  );
  expect(JSON.stringify(looked)).toContain('is invoiced beyond that day already');
  await world.turnTo(on(0, 25));
  expect(await offering.done('get', `/api/subscriptions/${lapses}`)).toMatchObject({ state: 'lapsed' });
  expect(await standing(lapses), 'only what began is owed').toEqual([`${start} 1200`]);
  expect(await standing(goesOn)).toEqual([`${start} 1200`, `${on(1)} 1200`]);
  await holds();
});

test('how early it is may be set for one subscription alone; what is issued stays', async () => {
  const id = await offering.enrolled(usual, { quantity: 2 });
  const set = (days: unknown) => offering.ask('put', `/api/subscriptions/${id}/issue-days`, { days });
  for (const days of [-1, 91, 1.5, '7', null]) expect((await set(days)).status).toBe(422);
  await world.turnTo(on(1, -12));
  expect((await set(20)).status).toBeLessThan(300);
  expect(await offering.done('get', `/api/subscriptions/${id}`)).toMatchObject({ issueBefore: 20 });
  await world.turnTo(on(1, -11));
  const [, next] = await rows(id);
  expect(next, 'its day had passed: it is issued at once').toMatchObject({ from: on(1), issued: on(1, -12) });
  expect((await set(0)).status).toBeLessThan(300);
  await world.turnTo(on(1, 8));
  expect(await standing(id)).toEqual([`${start} 6000`, `${on(1)} 6000`]);
  const whole = await offering.plan(
    { name: 'Course' },
    { lines: [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }], ends: { after: 3 } },
    { invoicing: 'whole' },
  );
  const course = await offering.enrolled(whole.rateId);
  const refused = await offering.ask('put', `/api/subscriptions/${course}/issue-days`, { days: 3 });
  expect(refused.body.errors).toEqual([
    { pointer: '/days', detail: 'It is invoiced as a whole, on its first day.' },
  ]);
  await holds();
});

const step = fc.record({
  kind: fc.constantFrom(
    ...['turn', 'turn', 'turn', 'quantity', 'quantity', 'pause', 'cancel', 'after', 'go on'],
    ...['date', 'rest', 'amount', 'take back', 'take back'],
  ),
  n: fc.nat(8),
  from: fc.constantFrom('now', 'renewal'),
});

test('issued early or on its day: whatever is changed, taken back and ended, the same is invoiced in the end', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 6, maxLength: 18 }), async (steps) => {
      const card = { quantity: 2 };
      const pair = [await offering.enrolled(early, card), await offering.enrolled(usual, card)];
      for (const { kind, n, from } of steps) {
        const today = await offering.today();
        if (kind === 'turn') {
          await world.turnTo(await offering.later(1 + n * 2));
          continue;
        }
        const answers = [];
        for (const id of pair) {
          const path = `/api/subscriptions/${id}`;
          if (kind === 'take back') {
            const planned = await offering.done<PlannedChange[]>('get', `${path}/planned`);
            const one = planned[n % Math.max(1, planned.length)];
            answers.push(one ? (await offering.ask('delete', `${path}/planned/${one.id}`)).status : 0);
          } else {
            const asked = {
              quantity: quantity(n + 1, from),
              pause: { kind: 'pause', periods: 1 + (n % 2) },
              cancel: { kind: 'cancel', when: 'period end' },
              after: { kind: 'cancel', when: 'after payments', payments: n + 1 },
              'go on': { kind: 'go on' },
              date: { kind: 'date', to: await offering.later(3 + n * 5), days: n % 2 ? 'free' : 'prorate' },
              rest: { kind: 'pause until', to: await offering.later(20 + n * 7), rest: 'prorate' },
              amount: { kind: 'amount', name: 'Jar', amount: '5.00', from },
            }[kind];
            const answer = await offering.ask('post', `${path}/alter`, asked);
            expect(answer.status, JSON.stringify(answer.body)).toBeLessThan(500);
            answers.push(answer.status);
          }
        }
        expect(answers[0], `${kind} on ${today}`).toBe(answers[1]);
        // What is issued anew is issued at once, and what settles today with it; otherwise that waits for the end of the day.
        await world.turnTo(await offering.later(1));
      }
      await world.turnTo(await offering.later(75));
      const [one = [], other = []] = await Promise.all(pair.map(standing));
      // The early one may be some days ahead.
      expect(one.slice(0, other.length)).toEqual(other);
      await holds();
    }),
    {
      numRuns: Number(process.env.EARLY_RUNS ?? 4),
      seed: Number(process.env.EARLY_SEED ?? 4),
      endOnFailure: true,
    },
  );
}, 240_000);
