import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { tellAs } from '../../testing/tellAs.ts';
import { World } from '../../testing/world.ts';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import type { DaySheet } from '../run/messages.ts';
import { keepUp } from '../run/turnPages.ts';
import { chargedOf } from '../signUp/joined.ts';
import { verify } from '../verify/verify.ts';
import { Attempt } from './Attempt.ts';

let world: World;
let offering: Offering;
let rateId: string;
let people = 0;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Plot', price: { scheme: 'flat', amount: '12.00' } }];
  ({ rateId } = await offering.plan({ name: 'Ground' }, { lines }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

interface Own {
  readonly debts: { id: string; number: string; owed: string; underWay: boolean; confirmBy: string | null }[];
}

/** Somebody whose bank asks them to confirm what is charged: charged on the first day, with the way to their own page. */
async function asked(behaviour: Behaviour = {}) {
  const token = `card-to-confirm-${(people += 1)}`;
  await world.moveCards([{ token, behaviour: { confirms: true, ...behaviour } }]);
  const on = await offering.today();
  const id = await offering.enrolled(rateId, { cardToken: token }, false);
  await world.turnTo(await offering.later(1));
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  const link = await CustomerLink.findOne({
    where: { customerId },
    order: [['id', 'desc']],
    rejectOnEmpty: true,
  });
  const path = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
  const debts = async () => ((await offering.stranger('get', path)).body as unknown as Own).debts;
  const invoiceId = (await debts())[0]?.id ?? '';
  return {
    ...{ id, customerId, on, path, debts, invoiceId },
    go: (of = invoiceId) => offering.stranger('post', `${path}/confirmation`, { invoiceId: of }),
    comeBack: async () =>
      (
        (await offering.stranger('post', `${path}/transfer/outcome`)).body.charged as { outcome: string }[]
      ).map(({ outcome }) => outcome),
    attempts: async () =>
      (await Attempt.findAll({ where: { customerId }, order: ['id'] })).map(({ state, responseCode }) => [
        state,
        responseCode,
      ]),
    letters: () => lettersWhere(world.almanac, 'l.subscription_id = $id', { id }),
    cases: () =>
      world.almanac.db.rows(
        `select state, decline_class as "declineClass", to_char(opened_on, 'YYYY-MM-DD') as "openedOn" from recovery_cases
         where subscription_id = $id`,
        { id },
      ),
  };
}
type Asked = Awaited<ReturnType<typeof asked>>;

const at = (url: unknown, what: 'confirm' | 'turn down' | 'leave') =>
  fetch(String(url), { method: 'POST', redirect: 'manual', body: new URLSearchParams({ what }) });
const eventsOf = async (one: Asked) => (await one.letters()).map(({ event }) => event);
const says = async (one: Asked) =>
  (
    await offering.done<{ rows: { says: string; state: string }[] }>(
      'get',
      `/api/payments?customerId=${one.customerId}`,
    )
  ).rows.map((row) => row.says);

test('a renewal waits for its cardholder, who is written to once and sent to the bank and back; confirmed it is collected', async () => {
  const one = await asked();
  expect(await one.debts()).toMatchObject([{ owed: '1200', underWay: true, confirmBy: '2027-01-06' }]);
  expect(await says(one)).toEqual(['Waits until Wed 6 Jan 2027 for the cardholder to confirm it']);
  const sheet = await offering.done<DaySheet>('get', `/api/days/${await offering.today()}`);
  expect(sheet.withBanks).toEqual([
    { expectedOn: '2027-01-07', waitsFor: 'cardholder', currency: 'GBP', amount: '1200', debits: 1 },
  ]);
  // Whoever has just joined is told the same in place of a receipt.
  const joined = await chargedOf(world.almanac, one.id, { on: await offering.today(), due: 0n });
  expect(joined).toMatchObject({ amount: '1200', outcome: 'to confirm' });
  // However often it is asked about, it is one letter, one charge, and no case.
  await keepUp(world.almanac, world.almanac.clock());
  await world.turnTo(await offering.later(1));
  const letter = (await one.letters()).find(({ event }) => event === 'confirm payment');
  expect(letter?.plain).toContain('your bank asks you to confirm it');
  expect(letter?.plain).toContain('by Wed 6 Jan 2027');
  expect(letter?.linkId).not.toBeNull();
  expect(await eventsOf(one)).toEqual(['started', 'confirm payment']);

  const { status, body } = await one.go();
  expect(status, JSON.stringify(body)).toBe(201);
  expect(await (await fetch(String(body.url))).text()).toContain('£12.00');
  // Who goes back and decides later has decided nothing.
  await at(body.url, 'leave');
  expect(await one.comeBack()).toEqual(['waits for the cardholder']);
  const pressed = await Promise.all([at(body.url, 'confirm'), at(body.url, 'confirm')]);
  expect(pressed.map(({ headers }) => headers.get('location'))).toEqual(
    Array(2).fill(`${world.almanac.config.ALMANAC_URL}/own/back`),
  );
  expect(await Promise.all([one.comeBack(), one.comeBack()])).toEqual([['collected'], ['collected']]);
  expect(await one.debts()).toEqual([]);
  expect(await one.attempts()).toEqual([['collected', '00']]);
  expect(await one.cases()).toEqual([]);
  expect(await eventsOf(one)).toEqual(['started', 'confirm payment', 'receipt']);
  expect((await one.go()).status).toBe(409);
  expect(await (await fetch(String(body.url))).text()).toContain('This payment is over');
});

test('who never comes back is heard of by the gateway’s own word, however soon it comes', async () => {
  const one = await asked();
  const { body } = await one.go();
  await at(body.url, 'confirm');
  const charge = (await world.chargesAtGateway()).at(-1);
  const account = await GatewayAccount.findOne({ where: { account: 'cards-main' }, rejectOnEmpty: true });
  const told = { ...charge, key: charge?.idempotencyKey, amount: String(charge?.amount) };
  const now = { at: world.almanac.clock().toISOString() };
  // The same charge of another sum is nobody's.
  const to = { app: offering.app, almanac: world.almanac, account };
  await tellAs(to, 'money.collected', { ...told, amount: '1201' }, now);
  expect(await one.attempts()).toEqual([['under way', null]]);
  expect((await tellAs(to, 'money.collected', told, now)).status).toBe(204);
  expect(await one.attempts()).toEqual([['collected', '00']]);
  await world.almanac.db.rows(`update needs set settled_on = arose_on where kind = 'charge does not match'`);
});

test('what nobody confirms is declined on the day after the last, and becomes a case that asks for the customer', async () => {
  const one = await asked();
  await world.turnTo(await offering.later(2));
  expect(await one.attempts()).toEqual([['under way', null]]);
  const declined = await offering.today();
  await world.turnTo(await offering.later(1));
  expect(await one.attempts()).toEqual([['declined', '70']]);
  expect(await one.cases()).toEqual([{ state: 'open', declineClass: 'ask', openedOn: declined }]);
  expect(await says(one)).toEqual(['Declined: the cardholder was asked to confirm the payment, and did not']);
  expect(await eventsOf(one)).toEqual(['started', 'confirm payment', 'payment declined']);
  expect((await one.go()).body.detail).toBe('There is nothing to confirm of this invoice any more.');
  // Another card mends it, as any other case.
  const token = `card-instead-${people}`;
  await world.moveCards([{ token, behaviour: {} }]);
  const given = await offering.stranger('post', `${one.path}/card`, { token });
  expect(given.body.charged).toMatchObject([{ outcome: 'collected' }]);
  expect(await one.cases()).toMatchObject([{ state: 'recovered' }]);
});

test('turned down, or confirmed without the money for it, it is a case that day; what staff charge meanwhile is not charged twice', async () => {
  const one = await asked();
  const other = await asked({ code: '51' });
  // A link opens its own customer's payments and no others'.
  expect((await one.go(other.invoiceId)).status).toBe(409);
  expect(
    (await offering.stranger('post', '/api/own/1.wrong/confirmation', { invoiceId: one.invoiceId })).status,
  ).toBe(404);
  const byStaff = await offering.ask('post', `/api/customers/${one.customerId}/charges`, {
    ...{ invoices: [one.invoiceId], token: 'card-by-telephone', amount: '1200' },
  });
  expect([byStaff.status, byStaff.body.detail]).toEqual([
    409,
    expect.stringContaining('is being charged already'),
  ]);
  await at((await one.go()).body.url, 'turn down');
  await at((await other.go()).body.url, 'confirm');
  expect(await one.comeBack()).toEqual(['declined']);
  expect(await other.comeBack()).toEqual(['declined']);
  expect(await one.attempts()).toEqual([['declined', '70']]);
  expect(await other.attempts()).toEqual([['declined', '51']]);
  expect(await one.cases()).toMatchObject([{ state: 'open', declineClass: 'ask' }]);
  expect(await other.cases()).toMatchObject([{ state: 'open', declineClass: 'wait' }]);
});

test('while the gateway is away nothing is lost: it is said, and the way goes on when it is back', async () => {
  const one = await asked();
  await world.misbehave({ down: true });
  const refused = await one.go();
  expect([refused.status, refused.body.detail]).toEqual([
    503,
    expect.stringContaining('Try again in a minute'),
  ]);
  await world.misbehave({});
  expect((await one.go()).status).toBe(201);
  // Who turns it down and gives another card, whose bank asks as well, is told so where they gave it.
  await at((await one.go()).body.url, 'turn down');
  await one.comeBack();
  const token = `card-instead-${people}`;
  await world.moveCards([{ token, behaviour: { confirms: true } }]);
  const given = await offering.stranger('post', `${one.path}/card`, { token });
  expect(given.body.charged).toMatchObject([{ outcome: 'waits for the cardholder' }]);
  expect((await eventsOf(one)).filter((event) => event === 'confirm payment')).toHaveLength(2);
  await at((await one.go()).body.url, 'confirm');
  expect(await one.comeBack()).toEqual(['declined', 'collected']);
});
