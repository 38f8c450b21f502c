import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let rateId: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ rateId } = await offering.plan({ name: 'Row' }, { lines, interval: 'P1W' }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
const letters = (id: string) => lettersWhere(world.almanac, 'l.subscription_id = $id', { id });
const events = async (id: string) => (await letters(id)).map(({ event, on }) => `${on} ${event}`);
const needs = () =>
  world.almanac.db.rows<{ kind: string; arose_on: string }>(
    `select kind, arose_on from needs where settled_on is null order by id`,
  );
const attempts = (id: string) =>
  world.almanac.db.rows<{ on: string; state: string; amount: string }>(
    `select a.attempted_on as "on", a.state, a.amount::text from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $id order by a.id`,
    { id },
  );
const subscription = (id: string) =>
  offering.done<{
    customerId: string;
    state: string;
    withoutMethod: string | null;
    cannotCharge: string | null;
  }>('get', `/api/subscriptions/${id}`);
const cannot = async () =>
  (await offering.done<{ total: number }>('get', '/api/subscriptions?kind=cannot%20be%20charged')).total;

/** Gives a card by a link, as the customer does; gives what was charged to it. */
async function giveCard(path: string, token: string) {
  await world.moveCards([{ token, behaviour: {} }]);
  const answer = await offering
    .stranger('post', `/api${path}/card`, { token })
    .set('User-Agent', 'A browser of theirs');
  return answer.body.charged as { outcome: string }[];
}

const handedOn = async (id: string) =>
  (await offering.done<{ path: string }>('post', `/api/subscriptions/${id}/link-to-hand-on`)).path;

test('what begins while a card is asked for by mail waits, is reminded of, is no case, and is charged when it comes', async () => {
  const id = await offering.enrolled(rateId, { pays: 'mail' }, false);
  expect(await events(id)).toEqual(['2027-01-04 mandate request']);
  const [first] = await letters(id);
  expect(first?.plain).toContain('The next payment is £12.00 on Mon 4 Jan 2027.');
  expect(first?.plain).toContain('Give a card: https://');
  expect((await subscription(id)).cannotCharge).toBe('asked for a card');
  expect(await cannot()).toBe(1);

  await world.turnTo('2027-01-25');
  expect(await attempts(id)).toEqual([]);
  expect(await subscription(id)).toMatchObject({ state: 'active', withoutMethod: 'wait' });
  expect(await events(id)).toEqual([
    '2027-01-04 mandate request',
    '2027-01-04 started',
    '2027-01-07 mandate request',
    '2027-01-11 mandate request',
    '2027-01-18 mandate request',
  ]);
  const said = (await letters(id)).map(({ plain }) => plain);
  expect(said[1]).toContain('It is charged once you have given us a card');
  expect(said[3]).toContain('On Mon 4 Jan 2027 we asked you for a card');
  expect(said[3]).toContain('£24.00 is open');
  expect(await needs()).toEqual([]);
  await world.turnTo('2027-01-26');
  expect(await needs()).toEqual([{ kind: 'no way to pay', arose_on: '2027-01-25' }]);
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);

  const charged = await giveCard(await handedOn(id), 'card-that-was-asked-for');
  expect(charged.map(({ outcome }) => outcome)).toEqual(['collected', 'collected', 'collected', 'collected']);
  expect(await subscription(id)).toMatchObject({ state: 'active', withoutMethod: null, cannotCharge: null });
  expect(await needs()).toEqual([]);
  expect(await cannot()).toBe(0);
  const confirmed = (await letters(id)).find(({ event }) => event === 'mandate confirmed');
  expect(confirmed?.plain).toContain('I authorise Fenmarsh Hives to charge this card');
  const mandate = await world.almanac.db.row(
    'select channel, agent, address <> $none as "from", given_at is not null as "at" from mandates order by id desc limit 1',
    { none: '' },
  );
  expect(mandate).toEqual({ channel: 'customer', agent: 'A browser of theirs', from: true, at: true });
  await world.turnTo('2027-02-02');
  expect((await attempts(id)).at(-1)).toEqual({ on: '2027-02-01', state: 'collected', amount: '1200' });
  expect((await events(id)).filter((one) => one.includes('declined'))).toEqual([]);
});

test('a first payment that is due on the day is charged when the card is given on that day', async () => {
  const id = await offering.enrolled(rateId, { pays: 'link' }, false);
  expect(await events(id)).toEqual([]);
  // A link that was handed on is no letter: one may still be asked for on the same day.
  const { customerId } = await subscription(id);
  const asked = { customerIds: [customerId] };
  expect(await offering.done('post', '/api/method-requests/effect', asked)).toEqual({ asked: 1, left: [] });
  await world.turnTo(await offering.later(1));
  const path = await handedOn(id);
  expect(await giveCard(path, 'card-of-the-link')).toEqual([
    expect.objectContaining({ outcome: 'collected' }),
  ]);
  // Given once more, nothing is left to charge.
  expect(await giveCard(path, 'card-of-the-link')).toEqual([]);
});

test('a trial that needs a card may begin while it is asked for, and goes on unpaid', async () => {
  const trial = await offering.plan({ name: 'Tried' }, { lines, trial: { length: 'P3D' } });
  expect((await offering.enrol(trial.rateId, {}, false)).body.errors[0].pointer).toBe('/cardToken');
  const id = await offering.enrolled(trial.rateId, { pays: 'mail' }, false);
  await world.turnTo(await offering.later(6));
  expect(await subscription(id)).toMatchObject({ state: 'active', withoutMethod: 'wait' });
  expect(await attempts(id)).toEqual([]);
  expect((await giveCard(await handedOn(id), 'card-after-trial')).length).toBe(1);
});

test('many are asked at once: whoever has a card, nothing to charge, or was asked today is left out and said', async () => {
  const paying = await offering.enrolled(rateId);
  const waiting = await offering.enrolled(rateId, { pays: 'link' }, false);
  const idle = await offering.enrolled(rateId, { pays: 'link' }, false);
  const [a, b, c] = [
    (await subscription(paying)).customerId,
    (await subscription(waiting)).customerId,
    (await subscription(idle)).customerId,
  ];
  await world.turnTo(await offering.later(2));
  await world.almanac.db.rows(
    `update subscriptions set collects = 'by hand', without_method = null where id = $idle`,
    { idle },
  );
  const ask = { customerIds: [c, b, a, b] };
  const effect = await offering.done<{ asked: number; left: { why: string }[] }>(
    'post',
    '/api/method-requests/effect',
    ask,
  );
  expect(effect.asked).toBe(1);
  expect(effect.left.map(({ why }) => why).sort()).toEqual([
    'nothing that runs is charged by itself',
    'there is a card that can be charged',
  ]);
  expect(await events(waiting)).toEqual([expect.stringContaining('started')]);
  // Two who ask at once write one letter.
  await Promise.all([
    offering.done('post', '/api/method-requests', ask),
    offering.done('post', '/api/method-requests', ask),
  ]);
  expect((await events(waiting)).filter((one) => one.endsWith('mandate request')).length).toBe(1);
  expect(await offering.done('post', '/api/method-requests/effect', { customerIds: [b] })).toMatchObject({
    asked: 0,
  });
  expect((await offering.ask('post', '/api/method-requests', { customerIds: [] })).status).toBe(422);
  await giveCard(await handedOn(waiting), 'card-of-many');
  await world.almanac.db.rows(`update subscriptions set collects = 'automatic' where id = $idle`, { idle });
  await giveCard(await handedOn(idle), 'card-of-idle');
});

test('a card on file is not asked for again', async () => {
  const { customerId } = await subscription(await offering.enrolled(rateId));
  const answer = await offering.ask('post', '/api/subscriptions', {
    ...{ customer: { id: customerId }, rateId, starts: await offering.today(), pays: 'mail' },
  });
  expect(answer.status).toBe(422);
  expect(answer.body.errors[0].pointer).toBe('/pays');
});

test('a card on file that has run out is no card: another is asked for, and what waits for it is no case', async () => {
  const { customerId } = await subscription(await offering.enrolled(rateId));
  await world.almanac.db.rows(
    `update payment_methods set expires_year = 2026, expires_month = 12 where customer_id = $customerId`,
    { customerId },
  );
  const again = (pays: string) =>
    offering
      .today()
      .then((starts) =>
        offering.ask('post', '/api/subscriptions', { customer: { id: customerId }, rateId, starts, pays }),
      );
  expect((await again('card')).body.errors[0]).toMatchObject({
    ...{ pointer: '/cardToken', detail: 'The card on file has expired: enter another one.' },
  });
  const answer = await again('mail');
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  const id = answer.body.id as string;
  await world.turnTo(await offering.later(2));
  expect(await attempts(id)).toEqual([]);
  expect(await subscription(id)).toMatchObject({ state: 'active', withoutMethod: 'wait' });
  expect((await giveCard(await handedOn(id), 'card-in-place-of-the-old')).length).toBeGreaterThan(0);
});

test('two of the staff enrol the same new person at once: one customer, and the other one is told who it is', async () => {
  const starts = await offering.today();
  const enrol = (email: string, more: object = {}) =>
    offering.ask('post', '/api/subscriptions', {
      ...{ customer: { name: 'Ada Fenn', email, ...more }, rateId, starts, pays: 'link' },
    });
  const answers = await Promise.all([enrol('ada@post.example'), enrol('ADA@post.example')]);
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 422]);
  const told = answers.find(({ status }) => status === 422);
  expect(told?.body.errors[0]).toMatchObject({
    pointer: '/customer/email',
    detail: 'Ada Fenn has this address already. Enrol Ada Fenn, or say that this is somebody else.',
  });
  const count = () =>
    world.almanac.db.row(`select count(*)::int as n from customers where lower(email) = 'ada@post.example'`);
  expect(await count()).toEqual({ n: 1 });
  expect((await enrol('ada@post.example', { another: true })).status).toBe(201);
  expect(await count()).toEqual({ n: 2 });
});
