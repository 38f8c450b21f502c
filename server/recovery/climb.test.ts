import { afterAll, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { inTheNameOf } from '../audit/asker.ts';
import { Business } from '../business/Business.ts';
import { collectInvoice } from '../payments/collect.ts';
import { turnDay } from '../run/turnDay.ts';
import { moveBusinessDate } from '../run/turnPages.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { verify } from '../verify/verify.ts';
import { actOnCases } from './caseActs.ts';
import { climbCase } from './climb.ts';
import { takeNewMethod } from './newMethod.ts';
import { RecoveryCase } from './RecoveryCase.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
beforeEach(() => world.misbehave({}));
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const YEARLY = { interval: 'P1Y' };
const turn = async (days: number) => world.turnTo(formatDay(toDay(await offering.today()) + days));
const plus = (date: string, days: number) => formatDay(toDay(date) + days);
const subscriptionOf = (id: string) => Subscription.findByPk(id, { rejectOnEmpty: true });
const caseOf = (subscriptionId: string) =>
  RecoveryCase.findOne({ where: { subscriptionId }, order: [['id', 'desc']], rejectOnEmpty: true });
const eventsOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select written_on || ' ' || event as said from letters
       where subscription_id = $id and event <> 'started' order by id`,
      { id },
    )
  ).map(({ said }) => said);
const attemptsOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select a.attempted_on || ' ' || a.state as said from attempts a join invoices i on i.id = a.invoice_id
       where i.subscription_id = $id order by a.id`,
      { id },
    )
  ).map(({ said }) => said);
const rungsOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select r.rung || ' ' || r.did as said from rungs_climbed r join recovery_cases k on k.id = r.case_id
       where k.subscription_id = $id order by k.id, r.rung`,
      { id },
    )
  ).map(({ said }) => said);

test('what is paid on the last day of a subscription is written down, and it ends as it was agreed', async () => {
  const start = await offering.today();
  const [id = ''] = await world.enrol([{ code: '51', until: plus(start, 7) }], {
    interval: 'P1W',
    ends: { after: 1 },
  });
  await turn(9);
  expect((await attemptsOf(id)).at(-1)).toBe(`${plus(start, 7)} collected`);
  expect(await subscriptionOf(id)).toMatchObject({ state: 'ended', endedWhy: 'completed' });
  expect((await eventsOf(id)).at(-1)).toBe(`${plus(start, 7)} ended`);
});

test('however many processes climb a case on one day, it takes one rung, one try and one letter', async () => {
  const [id = ''] = await world.enrol([{ code: '51' }], YEARLY);
  const start = await offering.today();
  await turn(3);
  const today = await offering.today();
  const { id: caseId } = await caseOf(id);
  await Promise.all(Array.from({ length: 6 }, () => climbCase(world.almanac, caseId, today)));
  await Promise.all([turnDay(world.almanac, today), turnDay(world.almanac, today)]);
  expect(await attemptsOf(id)).toEqual([`${start} declined`, `${today} declined`]);
  expect(await eventsOf(id)).toEqual([`${start} payment declined`, `${today} payment still declined`]);
  await turn(1);
  await turn(11);
  const { state } = await subscriptionOf(id);
  expect(state).toBe('lapsed');
  const closed = await caseOf(id);
  await Promise.all(Array.from({ length: 4 }, () => climbCase(world.almanac, caseId, plus(today, 30))));
  expect(await caseOf(id)).toMatchObject({ closedOn: closed.closedOn, state: 'given up' });
});

test('subscriptions of one customer whose cases are climbed at once write one letter a day between them', async () => {
  const { rateId } = await offering.plan({ name: 'Two' }, { lines: [line('4.00')], ...YEARLY });
  await world.moveCards([{ token: 'card-of-two-subscriptions', behaviour: { code: '51' } }]);
  const first = await offering.enrolled(rateId, { cardToken: 'card-of-two-subscriptions' }, false);
  const { customerId } = await subscriptionOf(first);
  const second = await offering.enrolled(rateId, { customer: { id: customerId } }, false);
  await turn(1);
  const today = await offering.today();
  const cases = [await caseOf(first), await caseOf(second)];
  await world.almanac.db.rows(
    'update recovery_cases set next_rung_on = $today where id = any($ids::bigint[])',
    { today, ids: cases.map(({ id }) => id) },
  );
  await Promise.all(cases.flatMap(({ id }) => [1, 2].map(() => climbCase(world.almanac, id, today))));
  const letters = [...(await eventsOf(first)), ...(await eventsOf(second))];
  expect(letters.filter((said) => said.startsWith(today))).toHaveLength(1);
});

describe('waiting is not failing', () => {
  test('with the gateway disconnected no rung is climbed, nobody is written to, nothing lapses', async () => {
    const [id = '', fresh = ''] = await world.enrol([{ code: '51' }, {}], YEARLY);
    await turn(1);
    const before = await eventsOf(id);
    await world.almanac.db.rows(`update gateway_accounts set disconnected_on = '2027-01-01'`);
    await turn(20);
    expect(await eventsOf(id)).toEqual(before);
    expect(await subscriptionOf(id)).toMatchObject({ state: 'overdue' });
    expect(await rungsOf(id)).toEqual(['0 wrote to the customer']);
    await world.almanac.db.rows(`update gateway_accounts set disconnected_on = null`);
    const today = await offering.today();
    await turn(1);
    expect(await eventsOf(id)).toEqual([...before, `${today} payment still declined`]);
    expect((await subscriptionOf(fresh)).state).toBe('active');
  });

  test('a retry whose outcome is not known climbs no rung and says nothing until it is known', async () => {
    const start = await offering.today();
    const [id = ''] = await world.enrol([{ code: '51', firstTries: 1 }], YEARLY);
    await turn(3);
    await world.misbehave({ chargesAnswer: { status: 500 } });
    await turn(2);
    expect(await eventsOf(id)).toEqual([`${start} payment declined`]);
    expect(await rungsOf(id)).toEqual(['0 wrote to the customer']);
    await world.misbehave({});
    await turn(1);
    expect((await eventsOf(id)).slice(1)).toEqual([`${plus(start, 5)} receipt`]);
    expect(await rungsOf(id)).toEqual(['0 wrote to the customer', '1 retried and collected']);
  });
});

test('a rung whose retry collected is kept with the payment, also where the run was cut short after it', async () => {
  const [id = ''] = await world.enrol([{ code: '51', firstTries: 1 }], YEARLY);
  await turn(3);
  const { id: caseId } = await caseOf(id);
  const today = await offering.today();
  const invoice = await world.almanac.db.row<{ id: string }>(
    'select id from invoices where subscription_id = $id',
    { id },
  );
  // As a run does that dies right after the answer of the gateway was written down.
  const outcome = await collectInvoice(world.almanac, {
    ...{ invoiceId: invoice?.id ?? '', reason: 'retry', channel: 'by itself', businessDate: today },
    ...{ occasion: `case ${caseId} rung 1`, rung: { caseId, rung: 1, leg: 0 } },
  });
  expect(outcome).toBe('collected');
  await turn(1);
  expect(await rungsOf(id)).toEqual(['0 wrote to the customer', '1 retried and collected']);
  expect((await caseOf(id)).state).toBe('recovered');
});

describe('the class of a case follows the latest card and answer', () => {
  test('a lost card that is replaced by one without money is tried on', async () => {
    const [id = ''] = await world.enrol([{ code: '41' }], YEARLY);
    await turn(2);
    expect((await caseOf(id)).declineClass).toBe('never');
    await world.moveCards([{ token: 'card-without-money', behaviour: { code: '51', firstTries: 2 } }]);
    const { customerId } = await subscriptionOf(id);
    await takeNewMethod(world.almanac, { customerId, token: 'card-without-money', channel: 'staff' });
    expect((await caseOf(id)).declineClass).toBe('wait');
    await turn(8);
    expect((await attemptsOf(id)).map((said) => said.split(' ')[1])).toEqual([
      'declined',
      'declined',
      'declined',
      'collected',
    ]);
    expect((await subscriptionOf(id)).state).toBe('active');
  });

  test('a card that is lost in the middle of a case is asked for, and not tried again', async () => {
    const start = await offering.today();
    const [id = ''] = await world.enrol([{ code: '51', until: plus(start, 2) }], YEARLY);
    await turn(1);
    await world.moveCards([{ token: 'card-that-is-lost', behaviour: { code: '43', onlyCharges: true } }]);
    const { customerId } = await subscriptionOf(id);
    await takeNewMethod(world.almanac, { customerId, token: 'card-that-is-lost', channel: 'staff' });
    const { id: caseId } = await caseOf(id);
    const need = () =>
      world.almanac.db.row<{ open: boolean }>(
        'select settled_on is null as open from needs where once_key = $key',
        { key: `case:${caseId}` },
      );
    expect(await need()).toEqual({ open: true });
    await turn(6);
    expect(await attemptsOf(id)).toHaveLength(2);
    await world.moveCards([{ token: 'card-that-works-at-last', behaviour: {} }]);
    await takeNewMethod(world.almanac, { customerId, token: 'card-that-works-at-last', channel: 'staff' });
    expect(await need()).toEqual({ open: false });
    expect((await subscriptionOf(id)).state).toBe('active');
  });
});

test('of an invoice that is paid by hand nobody is told that retries failed; sums are in its own currency', async () => {
  const rate = await offering.plan(
    { name: 'In yen' },
    { lines: [line('4000')], currency: 'JPY', ...YEARLY },
    { methods: ['invoice'] },
  );
  const id = await offering.enrolled(rate.rateId, { pays: 'invoice' }, false);
  await turn(20);
  expect((await subscriptionOf(id)).state).toBe('lapsed');
  const need = await world.almanac.db.row<{ says: string }>(
    `select says from needs where subscription_id = $id and kind = 'lapsed'`,
    { id },
  );
  expect(need?.says).toBe('Lapsed with ¥4,000 open. It was not paid, and the customer did not answer.');
});

test('two new cards given at once are both taken, one after the other', async () => {
  const [id = ''] = await world.enrol([{}], YEARLY);
  const { customerId } = await subscriptionOf(id);
  const tokens = [1, 2, 3, 4].map((n) => `card-given-at-once-${n}`);
  await world.moveCards(tokens.map((token) => ({ token, behaviour: {} })));
  const answers = await Promise.all(
    tokens.map((token) => offering.ask('post', `/api/customers/${customerId}/card`, { token })),
  );
  expect(answers.map(({ status }) => status)).toEqual([201, 201, 201, 201]);
  const inUse = await world.almanac.db.rows(
    `select 1 from payment_methods where customer_id = $customerId and state <> 'replaced'`,
    { customerId },
  );
  expect(inUse).toHaveLength(1);
});

test('the business date is moved on by whoever turned its day, and never set back', async () => {
  const today = await offering.today();
  const next = plus(today, 1);
  await moveBusinessDate(world.almanac, today, next);
  await moveBusinessDate(world.almanac, today, next);
  await moveBusinessDate(world.almanac, plus(today, -5), plus(today, -4));
  expect((await Business.findOne({ rejectOnEmpty: true })).businessDate).toBe(next);
  await turnDay(world.almanac, today);
});

function line(amount: string) {
  return { name: 'Row', price: { scheme: 'flat', amount } };
}

describe('however it comes together, a card is charged once', () => {
  test('a card that is replaced while its rung is climbed: one of the two collects, by the gateway’s own record', async () => {
    const subscriptions = await world.enrol(
      Array.from({ length: 6 }, () => ({ code: '51' })),
      YEARLY,
    );
    await turn(3);
    const today = await offering.today();
    await world.moveCards(subscriptions.map((id) => ({ token: `card-just-in-time-${id}`, behaviour: {} })));
    await Promise.all(
      subscriptions.flatMap((id, i) => {
        const replace = async () => {
          const { customerId } = await subscriptionOf(id);
          const token = `card-just-in-time-${id}`;
          await takeNewMethod(world.almanac, { customerId, token, channel: 'staff' });
        };
        const climb = async () => climbCase(world.almanac, (await caseOf(id)).id, today);
        return i % 2 === 0 ? [replace(), climb()] : [climb(), replace()];
      }),
    );
    await turn(1);
    for (const id of subscriptions) {
      const made = await attemptsOf(id);
      expect(
        made.filter((said) => said.endsWith('collected')),
        made.join(', '),
      ).toHaveLength(1);
      expect(await caseOf(id)).toMatchObject({ state: 'recovered' });
    }
    const keys = await world.almanac.db.rows<{ key: string }>(
      `select a.idempotency_key as key from attempts a join invoices i on i.id = a.invoice_id
       where i.subscription_id = any($subscriptions::bigint[])`,
      { subscriptions },
    );
    const collected = (await world.chargesAtGateway()).filter(
      ({ state, idempotencyKey }) => state === 'collected' && keys.some(({ key }) => key === idempotencyKey),
    );
    expect(collected).toHaveLength(subscriptions.length);
  });

  test('nor is an invoice tried more than fifteen times in thirty days, whoever asks for it', async () => {
    const [id = ''] = await world.enrol([{ code: '51' }], YEARLY);
    await turn(1);
    const { id: caseId } = await caseOf(id);
    const said: string[] = [];
    for (let n = 0; n < 20; n += 1) {
      const [done] = await inTheNameOf(
        {
          ...{ personId: null, who: 'Ada', via: 'terminal', address: '', agent: '' },
          onceUnder: { name: 'x', key: `try ${n}` },
        },
        () => actOnCases(world.almanac, [caseId], { do: 'try' }),
      );
      said.push(done?.says ?? '');
    }
    expect(await attemptsOf(id)).toHaveLength(15);
    expect(said.at(-1)).toBe('Not tried: it was tried too often in these days.');
    await turn(3);
    expect(await attemptsOf(id)).toHaveLength(15);
    expect(await rungsOf(id)).toEqual([
      '0 wrote to the customer',
      '1 not retried: it was tried too often, wrote to the customer',
    ]);
  });
});
