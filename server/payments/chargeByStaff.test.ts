import { afterAll, afterEach, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { InvoicePage } from '../invoices/messages.ts';
import { verify } from '../verify/verify.ts';
import type { StaffCharged } from './chargeByStaff.ts';

// Invoices that staff charge to a card while its holder is on the telephone, and what is paid by hand of those that are charged
// by themselves: 60.00 a month, due ten days after it is issued.

let world: World;
let offering: Offering;
let rateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ rateId } = await offering.plan(
    { name: 'Yard' },
    { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '60.00' } }], terms: 'P10D' },
  ));
});
afterEach(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});
afterAll(() => world.end());

let owed = 0;
/** Somebody with an invoice that is due in ten days, and is charged by itself then. */
async function owing(
  behaviour: object = {},
): Promise<{ id: string; customerId: string; subscriptionId: string }> {
  owed += 1;
  const token = `card-of-somebody-owing-${owed}`;
  await world.moveCards([{ token, behaviour }]);
  const subscriptionId = await offering.enrolled(rateId, { cardToken: token }, false);
  await world.turnTo(await offering.later(1));
  const row = await world.almanac.db.row<{ id: string; customerId: string }>(
    `select id::text, customer_id::text as "customerId" from invoices where subscription_id = $subscriptionId`,
    { subscriptionId },
  );
  return { id: row?.id ?? '', customerId: row?.customerId ?? '', subscriptionId };
}

const read = (id: string) => offering.done<InvoicePage>('get', `/api/invoices/${id}`);
const charge = (customerId: string, body: object) =>
  offering.ask('post', `/api/customers/${customerId}/charges`, body);

test('a card that is told by telephone is charged once, with its channel, and not kept', async () => {
  const { id, customerId, subscriptionId } = await owing();
  await world.moveCards([{ token: 'told-by-telephone', behaviour: {} }]);
  const { status, body } = await charge(customerId, {
    invoices: [id],
    amount: '6000',
    token: 'told-by-telephone',
  });
  expect([status, (body as StaffCharged).charged]).toEqual([
    201,
    [{ id, invoice: (await read(id)).number, outcome: 'collected' }],
  ]);
  expect(await read(id)).toMatchObject({ state: 'paid', attempts: [{ state: 'collected' }] });
  const attempt = await world.almanac.db.row(
    `select a.channel, a.reason, m.state from attempts a join payment_methods m on m.id = a.payment_method_id where a.invoice_id = $id`,
    { id },
  );
  expect(attempt).toEqual({ channel: 'staff', reason: 'by staff', state: 'replaced' });
  // The month after is charged to the card on file.
  await world.turnTo(await offering.later(45));
  const cards = await world.almanac.db.rows<{ token: string }>(
    `select distinct a.request ->> 'token' as token from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $subscriptionId and i.id <> $id`,
    { subscriptionId, id },
  );
  expect(cards.map(({ token }) => token)).not.toContain('told-by-telephone');
  expect(cards).toHaveLength(1);
});

test('a told card whose bank asks its holder waits for that; once it is known what came of it, it is forgotten too', async () => {
  const { id, customerId } = await owing();
  const token = 'told-and-to-confirm';
  await world.moveCards([{ token, behaviour: { confirms: true } }]);
  const { body } = await charge(customerId, { invoices: [id], amount: '6000', token });
  expect((body as StaffCharged).charged).toMatchObject([{ outcome: 'waits for the cardholder' }]);
  const stateOf = async () =>
    (
      await world.almanac.db.row<{ state: string }>(
        'select state from payment_methods where gateway_token = $token',
        { token },
      )
    )?.state;
  await world.turnTo(await offering.later(1));
  expect(await stateOf()).toBe('usable');
  // It was never kept to be charged again: nobody confirms, and the card on file is charged on its day.
  await world.turnTo(await offering.later(4));
  expect(await stateOf()).toBe('replaced');
  expect(await read(id)).toMatchObject({ state: 'issued', openCaseId: null });
  await world.turnTo(await offering.later(12));
  expect(await read(id)).toMatchObject({ state: 'paid' });
  const known = await offering.done<{ state: string }[]>('get', `/api/customers/${customerId}/methods`);
  expect(known.map(({ state }) => state).toSorted()).toEqual(['replaced', 'usable']);
});

test('a card that is declined before the day is no case: it is charged by itself when that comes', async () => {
  const { id, customerId, subscriptionId } = await owing();
  await world.moveCards([{ token: 'told-without-money', behaviour: { code: '51' } }]);
  // The bank is asked about a card before it is taken; this one has no money only for what is charged.
  const { body } = await charge(customerId, { invoices: [id], amount: '6000', token: 'told-without-money' });
  expect((body as StaffCharged).charged).toMatchObject([{ outcome: 'declined' }]);
  expect(await read(id)).toMatchObject({ state: 'issued', openCaseId: null });
  await world.turnTo(await offering.later(12));
  expect(await read(id)).toMatchObject({ state: 'paid' });
  expect(
    await world.almanac.db.row(
      'select count(*)::int as cases from recovery_cases where subscription_id = $id',
      {
        id: subscriptionId,
      },
    ),
  ).toEqual({ cases: 0 });
});

test('what is paid by hand before its day is not charged again, and the rest is', async () => {
  const { id, customerId } = await owing();
  await offering.done('post', `/api/customers/${customerId}/takings`, {
    ...{ means: 'cash', currency: 'GBP', amount: '2500', receivedOn: await offering.today(), invoices: [id] },
    over: '0',
  });
  await world.turnTo(await offering.later(12));
  const { state, attempts } = await read(id);
  expect(state).toBe('paid');
  expect(attempts.map(({ means, amount }) => [means, amount]).toSorted()).toEqual([
    ['cash', '2500'],
    ['gateway', '3500'],
  ]);
});

test('a card on file pays several at once; of somebody else, for another sum or twice nothing is charged', async () => {
  const one = await owing({ code: '51' });
  const other = await owing();
  await world.turnTo(await offering.later(11));
  const [mine] = await offering.done<{ id: string }[]>('get', `/api/customers/${one.customerId}/methods`);
  const [theirs] = await offering.done<{ id: string }[]>('get', `/api/customers/${other.customerId}/methods`);
  const { number } = await read(one.id);
  const before = (await world.chargesAtGateway()).length;
  for (const [body, status, pointer] of [
    [{ invoices: [one.id], amount: '5999', methodId: mine?.id }, 409, '/amount'],
    [{ invoices: [one.id], amount: '6000', methodId: theirs?.id }, 422, '/methodId'],
    [{ invoices: [one.id, one.id], amount: '12000', methodId: mine?.id }, 409, '/invoices/1'],
    [{ invoices: [other.id], amount: '6000', methodId: mine?.id }, 409, '/invoices/0'],
    [{ invoices: [one.id], amount: '6000' }, 422, '/methodId'],
    [{ invoices: [one.id], amount: '6000', token: 'no-such-token' }, 422, '/token'],
  ] as const) {
    const answer = await charge(one.customerId, body);
    expect([answer.status, answer.body.errors?.[0]?.pointer], JSON.stringify(body)).toEqual([
      status,
      pointer,
    ]);
  }
  expect(await world.chargesAtGateway()).toHaveLength(before);
  // Its own card has no money; another is told, and its case is closed with it.
  expect((await read(one.id)).openCaseId).not.toBeNull();
  await world.moveCards([{ token: 'told-for-a-case', behaviour: {} }]);
  const both = await Promise.all(
    [1, 2].map(() =>
      charge(one.customerId, { invoices: [one.id], amount: '6000', token: 'told-for-a-case' }),
    ),
  );
  expect(both.filter(({ status }) => status === 201).length).toBeGreaterThan(0);
  expect(
    (await world.chargesAtGateway()).filter(({ state }) => state === 'collected').length,
  ).toBeGreaterThan(0);
  expect(await read(one.id)).toMatchObject({ state: 'paid', openCaseId: null, number });
});
