import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { tellAs } from '../../testing/tellAs.ts';
import { World } from '../../testing/world.ts';
import { listMethods } from '../customers/methods.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import type { Page } from '../http/list.ts';
import { verify } from '../verify/verify.ts';
import type { ExpiringCard } from './expiringMessages.ts';

/* Cards that expire: whom it is written to, what is listed, and what a card does that its bank issues anew by itself. */
let world: World;
let offering: Offering;
let account: GatewayAccount;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  account = await GatewayAccount.findOne({ where: { account: 'cards-main' }, rejectOnEmpty: true });
});
afterAll(() => world.end());

interface Held {
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly methodId: string;
  readonly token: string;
}

/** Customers of a monthly plan whose cards expire in a month of 2027, by us and by the gateway. */
async function expiringIn(
  month: number,
  behaviours: Parameters<World['enrol']>[0],
  terms: object = { interval: 'P1M' },
): Promise<Held[]> {
  const ids = await world.enrol(behaviours, terms);
  const held = await world.almanac.db.rows<Held>(
    `update payment_methods m set expires_year = 2027, expires_month = $month from subscriptions s
     where s.customer_id = m.customer_id and s.id = any($ids::bigint[])
     returning s.id::text as "subscriptionId", s.customer_id::text as "customerId", m.id::text as "methodId", m.gateway_token as token`,
    { ids, month },
  );
  const gateway = world.almanac.gateways.of(account);
  for (const { token } of held) await gateway.changeExpiry(token, { expiresYear: 2027, expiresMonth: month });
  return held.toSorted((a, b) => Number(a.subscriptionId) - Number(b.subscriptionId));
}
const letters = (customerId: string) =>
  lettersWhere(world.almanac, `l.customer_id = $customerId and l.event = 'card expiring'`, { customerId });
const attempts = (subscriptionId: string) =>
  world.almanac.db.rows<{ on: string; state: string; reason: string }>(
    `select a.attempted_on as on, a.state, a.reason from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $subscriptionId order by a.id`,
    { subscriptionId },
  );
const listed = async (query = '') =>
  (await offering.done<Page<ExpiringCard>>('get', `/api/expiring-cards?${query}`)).rows;
const one = async (customerId: string) =>
  (await listMethods(world.almanac, customerId)).find(({ state }) => state !== 'replaced');
const tell = (token: string, expiresYear: number, more: { id?: string } = {}, by = account) =>
  tellAs(
    { app: offering.app, almanac: world.almanac, account: by },
    'card.renewed',
    { token, network: 'Larkfield', lastFour: '5353', expiresYear, expiresMonth: 9 },
    more,
  );

test('who pays with a card is written to once, at the start of its last month, and listed until it is renewed', async () => {
  const [told] = (await expiringIn(2, [{}])) as [Held];
  // Of one that has no payment to come nobody need give a card.
  const [complete] = (await expiringIn(2, [{}], { interval: 'P1M', ends: { after: 1 } })) as [Held];
  await world.turnTo('2027-01-31');
  expect(await letters(told.customerId)).toEqual([]);
  expect(await listed('state=next+month')).toMatchObject([{ customerId: told.customerId, toldOn: null }]);
  await world.turnTo('2027-02-05');
  const [letter, ...others] = await letters(told.customerId);
  expect(others).toEqual([]);
  expect(letter).toMatchObject({ on: '2027-02-01' });
  expect(letter?.plain).toContain(
    'is good until Sun 28 Feb 2027. The next payment, on Thu 4 Feb 2027, still goes through; those after it will not.',
  );
  expect(letter?.linkId).not.toBeNull();
  expect(await letters(complete.customerId)).toEqual([]);
  expect(await listed('state=this+month')).toMatchObject([
    { customerId: told.customerId, toldOn: '2027-02-01', expiresOn: '2027-02-28', nextOn: '2027-03-04' },
  ]);
  expect(await listed('search=nobody+of+this+name')).toEqual([]);

  // It expires: the next payment opens a case of what only the customer can mend. Then the gateway says that it was renewed.
  await world.turnTo('2027-03-06');
  expect((await listed('state=expired')).map(({ customerId }) => customerId)).toEqual([told.customerId]);
  const open = () =>
    world.almanac.db.row<{ state: string; how: string }>(
      `select state, closed_how as how from recovery_cases where subscription_id = $id`,
      { id: told.subscriptionId },
    );
  expect(await open()).toMatchObject({ state: 'open' });
  const before = (await attempts(told.subscriptionId)).length;
  await world.almanac.gateways.of(account).changeExpiry(told.token, { expiresYear: 2031, expiresMonth: 9 });
  expect((await tell(told.token, 2031, { id: 'hook-renewed' })).status).toBe(204);
  expect(await open()).toEqual({ state: 'recovered', how: 'new method' });
  const after = await attempts(told.subscriptionId);
  expect(after.slice(before)).toEqual([{ on: '2027-03-06', state: 'collected', reason: 'new method' }]);
  expect(await one(told.customerId)).toMatchObject({
    expires: '09/2031',
    renewedOn: '2027-03-06',
    hasExpired: false,
  });
  expect(await listed()).toEqual([]);

  // The same again, an older expiry, a token of nobody and another account's word change nothing.
  const abroad = await GatewayAccount.findByPk(await handOver(offering.ask, 'cards-abroad'), {
    rejectOnEmpty: true,
  });
  await tell(told.token, 2031, { id: 'hook-renewed' });
  await tell(told.token, 2029);
  await tell('card-of-nobody', 2035);
  await tell(told.token, 2035, {}, abroad);
  expect(await one(told.customerId)).toMatchObject({ expires: '09/2031' });
  expect(await attempts(told.subscriptionId)).toEqual(after);
});

test('a card that its bank issues anew by itself goes on being charged, and nobody is written to', async () => {
  const [held] = (await expiringIn(4, [{ renews: true }])) as [Held];
  await world.turnTo('2027-06-10');
  expect(await letters(held.customerId)).toEqual([]);
  expect((await attempts(held.subscriptionId)).every(({ state }) => state === 'collected')).toBe(true);
  expect((await attempts(held.subscriptionId)).map(({ on }) => on)).toEqual([
    '2027-03-06',
    '2027-04-06',
    '2027-05-06',
    '2027-06-06',
  ]);
  const card = await one(held.customerId);
  expect(card).toMatchObject({ expires: '04/2031', state: 'usable' });
  // No webhook reached us, as nobody listens in this world: it was asked about before the letter would have been written.
  expect(card?.renewedOn).toBe('2027-04-01');
});

test('a gateway that is away holds no letter back, and tells of the new card when it is there again', async () => {
  const [held] = (await expiringIn(7, [{}])) as [Held];
  await world.turnTo('2027-07-01');
  await world.misbehave({ down: true });
  await world.turnTo('2027-07-02');
  await world.misbehave({});
  expect((await letters(held.customerId)).map(({ on }) => on)).toEqual(['2027-07-01']);
  const before = await attempts(held.subscriptionId);
  await world.almanac.gateways.of(account).changeExpiry(held.token, { expiresYear: 2032, expiresMonth: 9 });
  await tell(held.token, 2032);
  // Nothing is owed: the card is taken, and nothing is charged to it before its day.
  expect(await one(held.customerId)).toMatchObject({ expires: '09/2032', renewedOn: '2027-07-02' });
  expect(await attempts(held.subscriptionId)).toEqual(before);
});

test('where these letters are switched off nobody is written to, and the day is done', async () => {
  await world.almanac.db.rows(
    `insert into settings (section, value) values ('recovery', '{"letters": {"card expiring": false}}')
     on conflict (section) do update set value = excluded.value`,
  );
  const [held] = (await expiringIn(8, [{}])) as [Held];
  await world.turnTo('2027-08-03');
  expect(await letters(held.customerId)).toEqual([]);
  expect(await listed('state=this+month')).toMatchObject([{ toldOn: null }]);
  const due = await world.almanac.db.row<{ step: number; over: boolean }>(
    `select step, finished_at is not null as over from days where business_date = '2027-08-02'`,
  );
  expect(due?.over).toBe(true);
  expect((await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0)).toEqual([]);
});

test('of a card whose customer has stopped such letters nobody is said to have been told', async () => {
  const [quiet] = (await expiringIn(9, [{}])) as [Held];
  await offering.done('put', `/api/customers/${quiet.customerId}/stopped-letters`, {
    stopped: ['card expiring'],
  });
  await world.turnTo('2027-09-03');
  expect(await letters(quiet.customerId)).toEqual([]);
  expect(await listed('state=this+month')).toMatchObject([{ customerId: quiet.customerId, toldOn: null }]);
});
