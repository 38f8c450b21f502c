import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { PRACTICE_CARDS } from '../../standins/gateway/practiceCards.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { PublicGateways } from '../gateways/publicGateway.ts';
import type { DaySheet } from '../run/messages.ts';
import { verify } from '../verify/verify.ts';

const PAYS = 'GB44TARN00010100000001';
const NO_MONEY_ONCE = 'GB97TARN00010100000017';
const CLOSED = 'GB47TARN00010100000044';
const lines = [{ name: 'Plot', price: { scheme: 'flat', amount: '12.00' } }];

let world: World;
let offering: Offering;
let plot: { planId: string; rateId: string };
let cardsAlone: { planId: string; rateId: string };

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  cardsAlone = await offering.plan({ name: 'Hall' }, { lines });
  plot = await offering.plan({ name: 'Plot' }, { lines }, { methods: ['card', 'bank debit', 'invoice'] });
});
afterAll(() => world.end());

const gateways = (rateId: string) =>
  offering.done<PublicGateways>('get', `/api/card-gateway?rateId=${rateId}`);

/** Gives a gateway something as the browser does; gives its answer. */
async function give(to: PublicGateways['bank'], path: string, body: object) {
  const answer = await fetch(new URL(path, to?.url), {
    method: 'POST',
    headers: { Authorization: `Bearer ${to?.publicKey}`, 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  return (await answer.json()) as { token: string; detail: string; field: string };
}
const bankToken = async (iban: string, holder = 'Ada Ashgrove') =>
  (await give((await gateways(plot.rateId)).bank, '/v1/bank-accounts', { iban, holder })).token;

const byBank = async (iban: string, more: object = {}) =>
  offering.enrolled(plot.rateId, { pays: 'bank', bankToken: await bankToken(iban), ...more }, false);

const attempts = (subscriptionId: string) =>
  world.almanac.db.rows<Record<string, string | null>>(
    `select a.state, a.response_code as code, a.expected_on as "expectedOn", a.attempted_on as "on"
     from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = $subscriptionId order by a.id`,
    { subscriptionId },
  );
const breaches = async () => (await verify(world.almanac)).flatMap(({ breaches: found }) => found);

test('where no gateway takes bank debits, none is offered; it is once one is connected', async () => {
  expect((await gateways(plot.rateId)).bank).toBeNull();
  const refused = await offering.enrol(
    plot.rateId,
    { pays: 'bank', bankToken: 'account-of-nobody-here' },
    false,
  );
  expect(refused.body.detail).toMatch(/No gateway that takes bank debits is connected/);
  await handOver(offering.ask, 'debit-main');
  expect((await gateways(plot.rateId)).bank).toMatchObject({ name: 'Sample business, bank debit' });
  expect((await gateways(cardsAlone.rateId)).bank).toBeNull();
});

test('an account whose digits are swapped is refused by its check digits, and one of another account is none', async () => {
  const { bank, gateway } = await gateways(plot.rateId);
  const holder = 'Ada Ashgrove';
  expect(await give(bank, '/v1/bank-accounts', { iban: 'GB44TARN00010100000010', holder })).toMatchObject({
    field: 'iban',
    detail: 'That is not an IBAN. Check the digits.',
  });
  expect(await give(bank, '/v1/bank-accounts', { iban: PAYS, holder: ' ' })).toMatchObject({
    field: 'holder',
  });
  expect(await give(gateway, '/v1/bank-accounts', { iban: PAYS, holder })).toMatchObject({
    detail: 'This account takes no bank debits.',
  });
  const token = await bankToken(PAYS);
  const asCard = await offering.enrol(plot.rateId, { cardToken: token }, false);
  expect(asCard.body.errors).toMatchObject([{ pointer: '/cardToken' }]);
  const elsewhere = await offering.enrol(cardsAlone.rateId, { pays: 'bank', bankToken: token }, false);
  expect(elsewhere.body.errors).toMatchObject([{ pointer: '/bankToken', detail: /not everything/i }]);
});

test('a debit is submitted once, is no case, and is paid on the day on which the banks answer', async () => {
  const id = await byBank(PAYS);
  await world.turnTo('2027-01-05');
  // From the first Monday: Tuesday, Wednesday, Thursday.
  const submitted = { state: 'under way', code: null, expectedOn: '2027-01-07' };
  expect(await attempts(id)).toMatchObject([submitted]);
  const sheet = () => offering.done<DaySheet>('get', '/api/days/2027-01-05');
  expect((await sheet()).withBanks).toEqual([
    { expectedOn: '2027-01-07', waitsFor: null, currency: 'GBP', amount: '1200', debits: 1 },
  ]);
  await world.turnTo('2027-01-07');
  expect((await sheet()).withBanks).toEqual([]);
  expect(await attempts(id)).toMatchObject([submitted]);
  expect(await breaches()).toEqual([]);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  // Whoever looks at what is open is not asked to pay it a second time.
  expect(await offering.done('get', `/api/customers/${customerId}/debts`)).toMatchObject([
    { underWay: true },
  ]);
  const [method] = await offering.done<Record<string, unknown>[]>(
    'get',
    `/api/customers/${customerId}/methods`,
  );
  expect(method).toMatchObject({
    ...{ kind: 'bank account', says: 'Bank account ending 0001', expires: null, holder: 'Ada Ashgrove' },
    mandate: { channel: 'staff', agreedText: expect.stringContaining('bank account is debited') },
  });
  for (const [verb, path] of [
    ['post', 'checks'],
    ['put', 'expiry'],
  ] as const)
    expect(
      (
        await offering.ask(verb, `/api/customers/${customerId}/methods/${String(method?.id)}/${path}`, {
          expiresMonth: 5,
          expiresYear: 2031,
        })
      ).status,
    ).toBe(409);

  await world.turnTo('2027-01-08');
  expect(await attempts(id)).toMatchObject([{ state: 'collected', code: '00', on: '2027-01-07' }]);
  expect((await world.chargesAtGateway()).map(({ state }) => state)).toEqual(['collected']);
  const letters = await world.almanac.db.rows<{ id: string }>(
    `select id::text from letters where subscription_id = $id and event in ('started', 'receipt') order by id`,
    { id },
  );
  expect(letters).toHaveLength(2);
  for (const letter of letters) {
    const { html } = await offering.done<{ html: string }>('get', `/api/letters/${letter.id}`);
    expect(html).toContain('your bank account ending 0001');
  }
  expect(await breaches()).toEqual([]);
});

test('a debit that comes back opens a case of its class: the ladder debits once more, a closed account never again', async () => {
  const poor = await byBank(NO_MONEY_ONCE);
  const closed = await byBank(CLOSED);
  await world.turnTo('2027-01-15');
  const cases = await world.almanac.db.rows(
    `select subscription_id::text as id, decline_class as class from recovery_cases where state <> 'recovered'
     order by subscription_id`,
  );
  expect(cases).toMatchObject([
    { id: poor, class: 'wait' },
    { id: closed, class: 'never' },
  ]);
  await world.turnTo('2027-01-29');
  const [first, second, ...more] = await attempts(poor);
  expect([first, second]).toMatchObject([{ state: 'declined', code: 'AM04' }, { state: 'collected' }]);
  expect(more).toEqual([]);
  expect(await attempts(closed)).toHaveLength(1);
  expect(
    await world.almanac.db.rows(
      `select m.state from payment_methods m join subscriptions s on s.customer_id = m.customer_id where s.id = $closed`,
      { closed },
    ),
  ).toEqual([{ state: 'barred' }]);
  expect(await breaches()).toEqual([]);
});

test('a debit that comes back goes on with the card that is the fallback, on the day of the answer', async () => {
  const id = await byBank(CLOSED);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  await world.moveCards([{ token: 'card-of-the-fallback', behaviour: {} }]);
  const card = { token: 'card-of-the-fallback', role: 'fallback' };
  await offering.done('post', `/api/customers/${customerId}/card`, card);
  await world.turnTo(await offering.later(8));
  const [debit, charge, ...more] = await attempts(id);
  expect([debit, charge]).toMatchObject([
    { state: 'declined', code: 'AC04' },
    { state: 'collected', code: '00' },
  ]);
  expect(charge?.on).toBe(debit?.on);
  expect(more).toEqual([]);
  expect(
    await world.almanac.db.rows(`select 1 from recovery_cases where subscription_id = $id`, { id }),
  ).toEqual([]);
  expect(await breaches()).toEqual([]);
});

test('a mandate that is withdrawn while the banks have a debit: it is asked about still, and paid once; none follows it', async () => {
  const id = await byBank(PAYS);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  // Over a weekend, if there is one.
  while ((await attempts(id)).length === 0) await world.turnTo(await offering.later(1));
  expect(await attempts(id)).toMatchObject([{ state: 'under way' }]);
  const [method] = await offering.done<{ id: string }[]>('get', `/api/customers/${customerId}/methods`);
  const at = `/api/customers/${customerId}/methods/${method?.id}/withdrawal`;
  expect(await offering.done('get', at)).toMatchObject({ underWay: 1, left: ['Plot'] });
  await offering.done('post', at);
  // Told by a webhook and found by asking, it is one payment.
  await world.turnTo(await offering.later(7));
  expect(await attempts(id)).toMatchObject([{ state: 'collected' }]);
  const paid = await world.almanac.db.rows(
    `select 1 from payments p join invoices i on i.id = p.invoice_id where i.subscription_id = $id`,
    { id },
  );
  expect(paid).toHaveLength(1);
  expect(await breaches()).toEqual([]);
});

test('due dates move by the rule for bank debits, and are refused where other ones were shown', async () => {
  const starts = '2027-02-27'; // a Saturday
  const shownFor = async (paidAs: string) =>
    (
      await offering.done<{ dues: { dueOn: string; due: string }[] }>('post', '/api/reckonings', {
        ...{ rateId: plot.rateId, starts, paidAs },
      })
    ).dues;
  const [byCard, byDebit] = [await shownFor('card'), await shownFor('bank debit')];
  expect([byCard[0]?.dueOn, byDebit[0]?.dueOn]).toEqual([starts, '2027-03-01']);
  const token = await bankToken(PAYS);
  const asked = { pays: 'bank', bankToken: token, starts };
  expect((await offering.enrol(plot.rateId, { ...asked, shown: byCard }, false)).status).toBe(409);
  const id = await offering.enrolled(plot.rateId, { ...asked, shown: byDebit }, false);
  await world.turnTo('2027-03-01');
  expect(await attempts(id)).toEqual([]);
  await world.turnTo('2027-03-05');
  expect(await attempts(id)).toMatchObject([{ state: 'collected', on: '2027-03-04' }]);
  // Whoever has a bank account on file pays with it, and needs no number.
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  const again = { customer: { id: customerId } };
  expect((await offering.enrol(plot.rateId, again, false)).status).toBe(201);
  expect((await offering.enrol(cardsAlone.rateId, again, false)).body.errors).toMatchObject([
    { pointer: '/cardToken', detail: 'This rate is not paid by bank debit: enter a card.' },
  ]);
});

test('a customer gives a bank account on their own page, to the words that stand there', async () => {
  const id = await offering.enrolled(plot.rateId, { pays: 'link' }, false);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  const { path } = await offering.done<{ path: string }>('post', `/api/subscriptions/${id}/link-to-hand-on`);
  const page = `/api/own/${path.split('/').at(-1)}`;
  const own = (await offering.stranger('get', page)).body;
  const given = { kind: 'bank account', token: await bankToken(PAYS) };
  expect((await offering.stranger('post', `${page}/card`, given)).status).toBe(201);
  const [method] = await offering.done<{ mandate: { agreedText: string; channel: string } }[]>(
    'get',
    `/api/customers/${customerId}/methods`,
  );
  expect(method?.mandate).toMatchObject({ agreedText: own.agreed['bank account'], channel: 'customer' });
  expect(own.agreed['bank account']).toMatch(/^I authorise .* to collect from this bank account/);
});

test('staff choose the account that keeps a card; the name on it is asked where Setup says so', async () => {
  const abroad = await handOver(offering.ask, 'cards-abroad');
  const { rateId } = await offering.plan({ name: 'Euro' }, { lines, currency: 'EUR' });
  const { gateway, others } = await gateways(rateId);
  const other = [gateway, ...others].find((one) => one?.id === abroad) ?? null;
  expect(other).not.toBeNull();
  const card = { number: PRACTICE_CARDS[0]?.number, expiresYear: 2031, expiresMonth: 5 };
  const { token } = await give(other, '/v1/cards', card);
  const kept = await offering.enrolled(rateId, { cardToken: token, keptAt: abroad }, false);
  const keptAt = await world.almanac.db.rows(
    `select m.gateway_account_id::text as at from payment_methods m join subscriptions s on s.customer_id = m.customer_id
     where s.id = $kept`,
    { kept },
  );
  expect(keptAt).toEqual([{ at: abroad }]);
  expect((await offering.enrol(rateId, { cardToken: token, keptAt: '999999' }, false)).status).toBe(409);

  const section = await offering.done<{ value: object; version: number }>('get', '/api/setup/customers');
  await offering.done('put', '/api/setup/customers', {
    version: section.version,
    value: { ...section.value, cardholder: 'required' },
  });
  const nameless = await offering.enrol(rateId, { cardToken: token, keptAt: abroad }, false);
  expect(nameless.body.errors).toMatchObject([{ pointer: '/cardToken/holder' }]);
  const named = await give(other, '/v1/cards', { ...card, holder: 'Ada Ashgrove' });
  const id = await offering.enrolled(rateId, { cardToken: named.token, keptAt: abroad }, false);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  expect(await offering.done('get', `/api/customers/${customerId}/methods`)).toMatchObject([
    { holder: 'Ada Ashgrove' },
  ]);
});
