import type { Express } from 'express';
import request from 'supertest';
import { Webhook } from 'standardwebhooks';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { handOver } from '../../testing/handOver.ts';
import { tellAs } from '../../testing/tellAs.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { unseal } from '../secrets/seal.ts';
import { verify } from '../verify/verify.ts';
import { GatewayAccount } from './GatewayAccount.ts';
import { webhookPlace } from './Gateways.ts';

let world: World;
let app: Express;
let abroad: GatewayAccount;
let main: GatewayAccount;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  const offering = await Offering.of(world);
  ({ app } = offering);
  const id = await handOver(offering.ask, 'cards-abroad');
  abroad = await GatewayAccount.findByPk(id, { rejectOnEmpty: true });
  main = await GatewayAccount.findOne({ where: { account: 'cards-main' }, rejectOnEmpty: true });
});
afterAll(() => world.end());

const tell = (
  account: GatewayAccount,
  type: string,
  data: unknown,
  more: { id?: string; at?: string } = {},
) => tellAs({ app, almanac: world.almanac, account }, type, data, more);

/** A charge that was sent, so long ago, and whose answer was lost; gives what the gateway would tell of it. */
async function underWay(minutesAgo = 2) {
  const [id = ''] = await world.enrol([{}], { interval: 'P1Y' });
  const { businessDate } = (await world.almanac.db.row<{ businessDate: string }>(
    'select business_date as "businessDate" from business',
  )) ?? { businessDate: '' };
  await world.misbehave({ chargesAnswer: { status: 500 } });
  await world.turnTo(new Date(Date.parse(businessDate) + 86_400_000).toISOString().slice(0, 10));
  await world.misbehave({});
  await world.almanac.db.rows(
    `update attempts set sent_at = now() - $minutesAgo * interval '1 minute' where state = 'under way'`,
    { minutesAgo },
  );
  const attempt = await world.almanac.db.row<{ key: string }>(
    `select idempotency_key as key from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = $id`,
    { id },
  );
  const charge = { id: 'charge-told', key: attempt?.key, amount: '1000', currency: 'GBP' };
  return { id, charge: { ...charge, state: 'collected', code: '00' } };
}
const stateOf = async (subscriptionId: string) =>
  (
    await world.almanac.db.row<{ state: string }>(
      `select a.state from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = $subscriptionId`,
      { subscriptionId },
    )
  )?.state;

test('what became of a charge counts only from the account it was sent to, and with its amount and currency', async () => {
  const { id, charge } = await underWay();
  expect((await tell(abroad, 'money.collected', charge)).status).toBe(204);
  expect(await stateOf(id), 'another account tells').toBe('under way');
  await tell(abroad, 'money.collected', { ...charge, amount: '1', currency: 'XXX' });
  expect(await stateOf(id)).toBe('under way');
  await tell(main, 'money.collected', { ...charge, amount: '1' });
  expect(await stateOf(id), 'another amount').toBe('under way');
  await tell(main, 'money.collected', { ...charge, currency: 'EUR' });
  expect(await stateOf(id), 'another currency').toBe('under way');
  const needs = await world.almanac.db.rows<{ kind: string }>(
    'select kind from needs where subscription_id = $id',
    { id },
  );
  expect(needs).toEqual([{ kind: 'charge does not match' }]);
  await tell(main, 'money.collected', charge);
  expect(await stateOf(id)).toBe('collected');
  const sum = await world.almanac.db.row(
    'select sum(collected)::text as sum from invoices where subscription_id = $id',
    { id },
  );
  expect(sum).toEqual({ sum: '1000' });
});

test('a charge that was just sent is left to whoever sent it; a minute later the webhook counts', async () => {
  const { id, charge } = await underWay(0);
  expect((await tell(main, 'money.collected', charge)).status).toBe(204);
  expect(await stateOf(id)).toBe('under way');
  await world.almanac.db.rows(
    `update attempts set sent_at = now() - interval '61 seconds' where state = 'under way'`,
  );
  const twice = await Promise.all([
    tell(main, 'money.collected', charge),
    tell(main, 'money.collected', charge),
  ]);
  expect(twice.map(({ status }) => status)).toEqual([204, 204]);
  expect(await stateOf(id)).toBe('collected');
  const paid = await world.almanac.db.rows(
    'select p.amount::text from payments p join invoices i on i.id = p.invoice_id where i.subscription_id = $id',
    { id },
  );
  expect(paid).toEqual([{ amount: '1000' }]);
});

test('a dispute counts only from the account that was charged', async () => {
  const { charge } = await underWay();
  await tell(main, 'money.collected', charge);
  const dispute = {
    key: charge.key,
    answerBy: '2027-03-01',
    says: 'Not me.',
    amount: '1000',
    currency: 'GBP',
  };
  const disputes = () => world.almanac.db.rows(`select 1 from needs where kind = 'payment disputed'`);
  await tell(abroad, 'money.disputed', dispute);
  expect(await disputes()).toHaveLength(0);
  await tell(main, 'money.disputed', dispute);
  expect(await disputes()).toHaveLength(1);
});

test('facts of an account that come late do not overwrite newer ones; the same event is taken once', async () => {
  const nameNow = async () => (await main.reload()).name;
  const facts = (name: string) => ({ ...main.facts, name });
  const [early, later, latest] = ['2027-01-04T10:00:00Z', '2027-01-04T11:00:00Z', '2027-01-04T12:00:00Z'];
  await world.almanac.db.rows('update gateway_accounts set facts_at = null');
  await tell(main, 'account.changed', facts('Newer'), { at: later });
  await tell(main, 'account.changed', facts('Older'), { at: early });
  expect(await nameNow()).toBe('Newer');
  await tell(main, 'account.changed', facts('Newest'), { at: latest, id: 'hook-same' });
  await world.almanac.db.rows(`update gateway_accounts set name = 'By hand' where id = $id`, { id: main.id });
  expect((await tell(main, 'account.changed', facts('Newest'), { at: latest, id: 'hook-same' })).status).toBe(
    204,
  );
  expect(await nameNow(), 'the same event again').toBe('By hand');
  // The same number from another account is another event.
  await tell(abroad, 'account.changed', { ...abroad.facts, name: 'Abroad' }, { at: latest, id: 'hook-same' });
  expect((await abroad.reload()).name).toBe('Abroad');
});

test('a webhook that another signed, that is old or was changed on its way, is refused', async () => {
  const body = JSON.stringify({ type: 'account.changed', data: { ...main.facts, name: 'Forged' } });
  const secret = unseal(world.almanac, webhookPlace(abroad), abroad.webhookSecret ?? '');
  const signedBy = (at: Date, text: string) => ({
    'webhook-id': 'hook-forged',
    'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
    'webhook-signature': new Webhook(secret).sign('hook-forged', at, text),
  });
  const send = (to: string, headers: object, text: string) =>
    request(app)
      .post(`/hooks/gateways/${to}`)
      .set('Content-Type', 'application/json')
      .set(headers as never)
      .send(text);
  expect((await send(main.id, signedBy(new Date(), body), body)).status).toBe(400);
  expect((await send(abroad.id, signedBy(new Date(Date.now() - 3_600_000), body), body)).status).toBe(400);
  expect((await send(abroad.id, signedBy(new Date(), body), `${body} `)).status).toBe(400);
  expect((await send('999999', signedBy(new Date(), body), body)).status).toBe(400);
  expect((await main.reload()).name).not.toBe('Forged');
  for (const { rule, breaches } of await verify(world.almanac))
    if (!rule.includes('gateway')) expect(breaches, rule).toEqual([]);
});
