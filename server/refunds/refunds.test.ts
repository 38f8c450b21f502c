import { afterAll, afterEach, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { SHORT_WAIT, World } from '../../testing/world.ts';
import type { CreditView } from '../customers/creditStatement.ts';
import type { PaymentPage } from '../payments/messages.ts';
import { PRACTICE_CARDS, type Behaviour } from '../../standins/gateway/practiceCards.ts';
import { askForWaiting } from '../run/turnDay.ts';
import { verify } from '../verify/verify.ts';
import type { RefundEffect } from './messages.ts';

// Money that goes back, by the gateway's own record: once, whatever is lost, pressed twice or comes back.

let world: World;
let offering: Offering;
let rateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), SHORT_WAIT);
  offering = await Offering.of(world);
  ({ rateId } = await offering.plan(
    { name: 'Yard' },
    {
      tax: { rate: '20', mode: 'exclusive' },
      lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '50.00' } }],
    },
  ));
});
afterEach(async () => {
  await world.misbehave({});
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});
afterAll(() => world.end());

let cards = 0;
/** Somebody who has paid 60.00 by a card. */
async function paid(
  behaviour: Behaviour = {},
): Promise<{ id: string; customerId: string; invoiceId: string }> {
  cards += 1;
  const token = `refunded-card-${cards}`;
  await world.moveCards([{ token, behaviour }]);
  const subscriptionId = await offering.enrolled(rateId, { cardToken: token }, false);
  await world.turnTo(await offering.later(1));
  const row = await world.almanac.db.row<{ id: string; customerId: string; invoiceId: string }>(
    `select a.id::text, a.customer_id::text as "customerId", a.invoice_id::text as "invoiceId"
     from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $subscriptionId and a.state = 'collected'`,
    { subscriptionId },
  );
  return row ?? { id: '', customerId: '', invoiceId: '' };
}

const asked = (amount: string, to = 'gateway') => ({ amount, to, reason: 'Sent the wrong hive' });
const effect = (id: string, wanted: object) =>
  offering.done<RefundEffect>('post', `/api/payments/${id}/refund/effect`, wanted);
const refund = (id: string, wanted: object) =>
  offering.done<RefundEffect>('post', `/api/payments/${id}/refund`, wanted);
const read = (id: string) => offering.done<PaymentPage>('get', `/api/payments/${id}`);
const creditOf = async (customerId: string) =>
  (await offering.done<CreditView[]>('get', `/api/customers/${customerId}/credits`))[0]?.credit ?? '0';

/** What the gateway has paid back, by its own record: how much, and how that stands. */
async function atGateway(): Promise<string[]> {
  const told: string[] = [];
  for (const account of await world.almanac.gateways.connected())
    for await (const { amount, state } of world.almanac.gateways.of(account).refunds())
      told.push(`${amount} ${state}`);
  return told;
}

test('a part of a payment goes back to the card with a credit note, shown first to the cent', async () => {
  const { id, customerId, invoiceId } = await paid();
  const shown = await effect(id, asked('1200'));
  expect(shown).toMatchObject({
    ...{ to: 'Larkfield ending 4242', creditNote: null, credit: '0', id: null },
    books: [
      { account: 'Sales', amount: '1000' },
      { account: 'Tax', amount: '200' },
      { account: 'Credit of customers', amount: '-1200' },
      { account: 'Credit of customers', amount: '1200' },
      { account: 'Gateway clearing', amount: '-1200' },
    ],
  });
  expect(shown.subscription).toMatch(/^The subscription goes on, next on /);
  expect(await atGateway()).toEqual([]);
  expect(await refund(id, asked('1200'))).toMatchObject({ state: 'done', creditNote: 'CN-1' });
  expect(await atGateway()).toEqual(['1200 done']);
  expect(await read(id)).toMatchObject({
    ...{ state: 'part refunded', refunded: '1200', left: '4800' },
    refunds: [{ state: 'done', creditNote: 'CN-1', reason: 'Sent the wrong hive' }],
  });
  const [letter] = await lettersWhere(world.almanac, `l.customer_id = $customerId and l.event = 'refund'`, {
    customerId,
  });
  expect(letter?.plain).toContain('We have paid £12.00 back to your card Larkfield ending 4242');
  expect(await offering.done('get', `/api/invoices/${invoiceId}`)).toMatchObject({
    state: 'paid',
    left: '4800',
  });
  const most = await offering.ask('post', `/api/payments/${id}/refund`, asked('4801'));
  expect([most.status, most.body.errors]).toEqual([
    422,
    [{ pointer: '/amount', detail: 'At most £48.00 of this payment can go back.' }],
  ]);
  await refund(id, asked('4800'));
  expect((await read(id)).state).toBe('refunded');
});

test('pressed twice with one key, and by two at once, money goes back once', async () => {
  const { id } = await paid();
  const before = (await atGateway()).length;
  const both = await Promise.all(
    [1, 2].map(() =>
      offering
        .ask('post', `/api/payments/${id}/refund`, asked('6000'))
        .set('Idempotency-Key', 'the-same-key-of-a-refund'),
    ),
  );
  expect(both.filter(({ status }) => status === 201).length).toBeGreaterThan(0);
  const others = await Promise.all(
    [1, 2].map(() => offering.ask('post', `/api/payments/${id}/refund`, asked('6000'))),
  );
  expect(others.map(({ status }) => status)).toEqual([422, 422]);
  expect((await atGateway()).slice(before)).toEqual(['6000 done']);
});

test('an answer that is lost is asked for by its key: it is not paid back twice', async () => {
  const { id } = await paid();
  const before = (await atGateway()).length;
  await world.misbehave({ dropRefunds: 1 });
  expect(await refund(id, asked('2500'))).toMatchObject({ state: 'done' });
  expect((await atGateway()).slice(before)).toEqual(['2500 done']);
});

test('a gateway that is away keeps it waiting, and the next look pays it back', async () => {
  const { id, customerId } = await paid();
  const before = (await atGateway()).length;
  await world.misbehave({ down: true });
  expect(await refund(id, asked('2500'))).toMatchObject({ state: 'under way' });
  expect(await creditOf(customerId)).toBe('0');
  expect((await read(id)).refunds).toMatchObject([{ state: 'under way' }]);
  await world.misbehave({});
  await askForWaiting(world.almanac, await offering.today(), undefined);
  expect((await read(id)).refunds).toMatchObject([{ state: 'done' }]);
  expect((await atGateway()).slice(before)).toEqual(['2500 done']);
});

test('what the banks take days for is done then; what comes back is the customer’s credit, and a person is told', async () => {
  const behaviourOf = (like: string) => PRACTICE_CARDS.find(({ description }) => description.includes(like));
  const slow = await paid(behaviourOf('takes days')?.behaviour);
  const back = await paid(behaviourOf('comes back')?.behaviour);
  for (const { id } of [slow, back])
    expect(await refund(id, asked('6000'))).toMatchObject({ state: 'under way' });
  const [waiting] = (await read(slow.id)).refunds;
  expect(waiting?.expectedOn).not.toBeNull();
  await world.turnTo(await offering.later(6));
  expect((await read(slow.id)).refunds).toMatchObject([{ state: 'done' }]);
  expect((await read(back.id)).refunds).toMatchObject([
    { state: 'failed', says: 'The account of this card is closed.' },
  ]);
  expect([await creditOf(slow.customerId), await creditOf(back.customerId)]).toEqual(['0', '6000']);
  const need = await world.almanac.db.row(
    `select says, settled_on from needs where kind = 'refund failed' and customer_id = $customerId`,
    { customerId: back.customerId },
  );
  expect(need).toMatchObject({
    says: expect.stringContaining('£60.00 could not be paid back') as string,
    settled_on: null,
  });
  // It is paid out by hand instead.
  const out = { currency: 'GBP', amount: '6000', to: 'transfer', reason: 'The card is closed' };
  const shown = await offering.done<RefundEffect>(
    'post',
    `/api/customers/${back.customerId}/pay-outs/effect`,
    out,
  );
  expect(shown).toMatchObject({ to: 'Bank transfer', credit: '0', books: [{}, { account: 'Bank' }] });
  expect(await offering.done('post', `/api/customers/${back.customerId}/pay-outs`, out)).toMatchObject({
    state: 'done',
  });
  const [again] = [await offering.ask('post', `/api/customers/${back.customerId}/pay-outs`, out)];
  expect([again.status, again.body.errors[0].pointer]).toEqual([422, '/amount']);
});

test('a request that the gateway refuses comes to nothing, and what was given is credit', async () => {
  const { id, customerId } = await paid();
  await world.misbehave({ chargesAnswer: { status: 422 } });
  expect(await refund(id, asked('1000'))).toMatchObject({ state: 'failed' });
  await world.misbehave({});
  expect(await creditOf(customerId)).toBe('1000');
  // It can be paid out to the same card after all.
  const out = { currency: 'GBP', amount: '1000', to: 'gateway', attemptId: id, reason: 'Once more' };
  expect(await offering.done('post', `/api/customers/${customerId}/pay-outs`, out)).toMatchObject({
    ...{ state: 'done', to: 'Larkfield ending 4242' },
  });
});

test('to credit nothing leaves the house; of another customer, beyond the payment or without a reason nothing is done', async () => {
  const { id, customerId } = await paid();
  const other = await paid();
  const before = await atGateway();
  expect(await refund(id, asked('1000', 'credit'))).toMatchObject({ credit: '1000', state: 'done' });
  expect(await creditOf(customerId)).toBe('1000');
  const out = { currency: 'GBP', amount: '1000', to: 'gateway', reason: 'R' };
  for (const [path, wanted, pointer] of [
    [`/api/payments/${id}/refund`, { ...asked('1000'), reason: '' }, '/reason'],
    [`/api/payments/${id}/refund`, asked('0'), '/amount'],
    [`/api/payments/${id}/refund`, asked('1000', 'the moon'), '/to'],
    [`/api/customers/${customerId}/pay-outs`, { ...out, attemptId: other.id }, '/attemptId'],
    [`/api/customers/${customerId}/pay-outs`, out, '/attemptId'],
    [`/api/customers/${customerId}/pay-outs`, { ...out, attemptId: id, amount: '1001' }, '/amount'],
    [`/api/customers/${customerId}/pay-outs`, { ...out, attemptId: id, currency: 'EUR' }, '/attemptId'],
  ] as const) {
    const answer = await offering.ask('post', path, wanted);
    expect([answer.status, answer.body.errors?.[0]?.pointer], JSON.stringify(wanted)).toEqual([422, pointer]);
  }
  expect(await atGateway()).toEqual(before);
});

test('a webhook of another account, or of another sum, changes nothing of a refund', async () => {
  const { id } = await paid({ refunds: 'take days' });
  await refund(id, asked('700'));
  const row = await world.almanac.db.row<{ key: string }>(
    'select idempotency_key as key from refunds where attempt_id = $id',
    { id },
  );
  const { settleRefund } = await import('./askForRefund.ts');
  // Told twice, by an answer and a webhook, it is done once; and one that is none of ours is none.
  const told = { id: 'refund-x', amount: 700n, currency: 'GBP', state: 'done' as const, says: '' };
  const on = await offering.today();
  await expect(
    settleRefund(world.almanac, { ...told, idempotencyKey: 'of somebody else' }, on),
  ).rejects.toThrow('none of ours');
  await world.turnTo(await offering.later(6));
  expect(await settleRefund(world.almanac, { ...told, idempotencyKey: row?.key ?? '' }, on)).toBe('done');
  expect((await read(id)).refunds).toHaveLength(1);
});
