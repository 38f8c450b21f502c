import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { FIRST_DAY, SHORT_WAIT, World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { linkToken } from '../customers/link.ts';
import { changeCardFromOwnPage, payFromOwnPage, readOwnPage } from '../customers/ownPage.ts';
import { settleAttempt } from '../payments/settleAttempt.ts';
import { turnDay } from '../run/turnDay.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { verify } from '../verify/verify.ts';
import { takeNewMethod } from './newMethod.ts';
import { RecoveryCase } from './RecoveryCase.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), SHORT_WAIT);
});
afterAll(() => world.end());

const attemptsOf = (subscriptionId: string) =>
  world.almanac.db.rows<{ on: string; state: string; reason: string }>(
    `select a.attempted_on as on, a.state, a.reason from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $subscriptionId order by a.id`,
    { subscriptionId },
  );
const lettersOf = (subscriptionId: string) =>
  world.almanac.db.rows<{ on: string; event: string }>(
    `select written_on as on, event from letters
     where subscription_id = $subscriptionId and event <> 'started' order by written_on, id`,
    { subscriptionId },
  );
const stateOf = async (id: string) => (await Subscription.findByPk(id, { rejectOnEmpty: true })).state;
const breaches = async () => (await verify(world.almanac)).filter((finding) => finding.breaches.length > 0);

/** The token of the link in the case of a subscription. */
async function linkOf(subscriptionId: string, purpose: 'own' | 'view' = 'own'): Promise<string> {
  const link = await world.almanac.db.row<{ id: string }>(
    'select id from customer_links where subscription_id = $subscriptionId and case_id is not null',
    { subscriptionId },
  );
  return linkToken(world.almanac, link?.id ?? '', purpose);
}

describe('the default ladder', () => {
  let ids: string[];
  beforeAll(async () => {
    ids = await world.enrol([
      { code: '51' },
      { code: '41' },
      { code: '51', until: '2027-01-10' },
      { code: '91', firstDay: true },
      { silent: true },
      {},
    ]);
    await world.turnTo('2027-02-01');
  });

  test('retries and writes on days 3, 7 and 12, then lapses', async () => {
    const [id = ''] = ids;
    expect(await attemptsOf(id)).toEqual([
      { on: FIRST_DAY, state: 'declined', reason: 'renewal' },
      { on: '2027-01-07', state: 'declined', reason: 'retry' },
      { on: '2027-01-11', state: 'declined', reason: 'retry' },
      { on: '2027-01-16', state: 'declined', reason: 'retry' },
    ]);
    expect(await lettersOf(id)).toEqual([
      { on: FIRST_DAY, event: 'payment declined' },
      { on: '2027-01-07', event: 'payment still declined' },
      { on: '2027-01-11', event: 'payment still declined' },
      { on: '2027-01-16', event: 'last reminder' },
      { on: '2027-01-18', event: 'lapsed' },
    ]);
    expect(await stateOf(id)).toBe('lapsed');
  });

  test('never tries a lost card again, but goes on writing', async () => {
    const [, id = ''] = ids;
    expect(await attemptsOf(id)).toHaveLength(1);
    expect(await lettersOf(id)).toHaveLength(5);
    const needs = await world.almanac.db.rows<{ kind: string; open: boolean }>(
      'select kind, settled_on is null as open from needs where subscription_id = $id order by id',
      { id },
    );
    expect(needs).toEqual([
      { kind: 'card to be replaced', open: false },
      { kind: 'lapsed', open: true },
    ]);
  });

  test('money that comes on a rung closes the case and cancels the rest', async () => {
    const [, , id = ''] = ids;
    expect((await attemptsOf(id)).at(-1)).toEqual({ on: '2027-01-11', state: 'collected', reason: 'retry' });
    expect((await lettersOf(id)).map(({ event }) => event)).toEqual([
      'payment declined',
      'payment still declined',
      'receipt',
    ]);
    expect(await stateOf(id)).toBe('active');
  });

  test('a bank that is away is tried again the next day, before anyone is written to', async () => {
    const [, , , id = ''] = ids;
    expect((await attemptsOf(id)).map(({ on, state }) => [on, state])).toEqual([
      [FIRST_DAY, 'declined'],
      ['2027-01-05', 'collected'],
    ]);
    expect((await lettersOf(id)).map(({ event }) => event)).toEqual(['receipt']);
  });

  test('a charge that is made and never answered is found, and made once', async () => {
    const [, , , , id = ''] = ids;
    expect((await attemptsOf(id)).map(({ state }) => state)).toEqual(['collected']);
  });

  test('turning a day again changes nothing, and everything holds', async () => {
    const before = await world.chargesAtGateway();
    await turnDay(world.almanac, '2027-01-31');
    expect(await world.chargesAtGateway()).toEqual(before);
    expect(await breaches()).toEqual([]);
  });
});

describe('a new card', () => {
  test('given to staff is charged at once and closes the case', async () => {
    const [id = ''] = await world.enrol([{ code: '54' }]);
    await world.turnTo('2027-02-03');
    await world.moveCards([{ token: 'card-of-staff-1', behaviour: {} }]);
    const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
    const taken = await takeNewMethod(world.almanac, {
      customerId,
      token: 'card-of-staff-1',
      channel: 'staff',
    });
    expect(taken.charged.map(({ outcome }) => outcome)).toEqual(['collected']);
    expect(await stateOf(id)).toBe('active');
    expect((await RecoveryCase.findOne({ where: { subscriptionId: id }, rejectOnEmpty: true })).state).toBe(
      'recovered',
    );
    expect(await breaches()).toEqual([]);
  });

  test('given on the page of the link does the same; pressed many times it charges once', async () => {
    const [id = ''] = await world.enrol([{ code: '51' }]);
    await world.turnTo('2027-02-05');
    const token = await linkOf(id);
    expect((await readOwnPage(world.almanac, token, true)).debts).toHaveLength(1);
    await world.moveCards([{ token: 'card-of-customer-1', behaviour: {} }]);
    const before = (await world.chargesAtGateway()).length;
    await Promise.all(
      [1, 2, 3, 4].map(() =>
        changeCardFromOwnPage(world.almanac, token, { kind: 'card', token: 'card-of-customer-1' }),
      ),
    );
    const made = (await world.chargesAtGateway()).slice(before);
    expect(made.map(({ state }) => state)).toEqual(['collected']);
    expect((await readOwnPage(world.almanac, token, true)).debts).toEqual([]);
    expect(await breaches()).toEqual([]);
  });

  test('that is declined too leaves the case open and the debt payable', async () => {
    const [id = ''] = await world.enrol([{ code: '51', firstTries: 2 }]);
    await world.turnTo('2027-02-07');
    const token = await linkOf(id);
    const first = await payFromOwnPage(world.almanac, token, '11111111-1111-4111-8111-111111111111');
    expect(first.charged.map(({ outcome }) => outcome)).toEqual(['declined']);
    expect(await stateOf(id)).toBe('overdue');
    const second = await payFromOwnPage(world.almanac, token, '22222222-2222-4222-8222-222222222222');
    expect(second.charged.map(({ outcome }) => outcome)).toEqual(['collected']);
    expect(await stateOf(id)).toBe('active');
  });
});

describe('a link', () => {
  test('cannot be guessed, acts only for its purpose, and expires', async () => {
    const [id = ''] = await world.enrol([{ code: '51' }]);
    await world.turnTo('2027-02-09');
    const own = await linkOf(id);
    const view = await linkOf(id, 'view');
    const forged = `${own.slice(0, -1)}${own.endsWith('A') ? 'B' : 'A'}`;
    await expect(readOwnPage(world.almanac, forged, true)).rejects.toMatchObject({ status: 404 });
    await expect(readOwnPage(world.almanac, 'nonsense', true)).rejects.toMatchObject({ status: 404 });
    expect((await readOwnPage(world.almanac, view, true)).readOnly).toBe(true);
    const key = '33333333-3333-4333-8333-333333333333';
    await expect(payFromOwnPage(world.almanac, view, key)).rejects.toMatchObject({ status: 403 });
    await world.almanac.db.rows(
      `update customer_links set expires_on = '2027-02-08' where subscription_id = $id`,
      { id },
    );
    await expect(readOwnPage(world.almanac, own, true)).rejects.toMatchObject({ status: 410 });
  });
});

test('an outcome told by answer and webhook at once is written once', async () => {
  const [id = ''] = await world.enrol([{}]);
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  await world.turnTo(formatDay(toDay(businessDate) + 1));
  const charge = (await world.chargesAtGateway()).at(-1);
  if (!charge) throw new Error('nothing was charged');
  const record = { ...charge, id: 'x', currency: 'GBP', state: 'collected' as const };
  await Promise.all([1, 2, 3].map(() => settleAttempt(world.almanac, record, businessDate)));
  expect((await lettersOf(id)).filter(({ event }) => event === 'receipt')).toHaveLength(1);
  expect(await breaches()).toEqual([]);
});
