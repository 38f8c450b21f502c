import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { SHORT_WAIT, World } from '../../testing/world.ts';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { askGateway } from './askGateway.ts';
import { Attempt } from './Attempt.ts';
import { verify } from '../verify/verify.ts';

// Several methods of one customer: a subscription's own, the primary, the fallback, tried in that order within one day's
// attempt. What the gateway was really asked for is read from its own record.

let world: World;
let offering: Offering;
let rateId: string;
let cards = 0;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), SHORT_WAIT);
  offering = await Offering.of(world);
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
  ({ rateId } = await offering.plan({ name: 'Rows' }, { lines, interval: 'P1Y' }));
});
afterAll(async () => {
  await world.misbehave({});
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const turn = async (days = 1) => world.turnTo(formatDay(toDay(await offering.today()) + days));
/** A card at the gateway; its token says what it does. */
async function card(behaviour: Behaviour, what: string): Promise<string> {
  cards += 1;
  const token = `card-${what}-${cards}`;
  await world.moveCards([{ token, behaviour }]);
  return token;
}
interface Enrolled {
  readonly id: string;
  readonly customerId: string;
}
async function enrolled(primary: string, more: object = {}): Promise<Enrolled> {
  const answer = await offering.enrol(rateId, { cardToken: primary, ...more }, false);
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  return answer.body as Enrolled;
}
const give = (customerId: string, token: string, role: 'primary' | 'fallback') =>
  offering.done('post', `/api/customers/${customerId}/card`, { token, role });
const methodsOf = (customerId: string) =>
  offering.done<{ id: string; role: string; state: string; says: string; own: object[] }[]>(
    'get',
    `/api/customers/${customerId}/methods`,
  );
const roles = async (customerId: string) =>
  (await methodsOf(customerId))
    .filter(({ state }) => state !== 'replaced')
    .map(({ role, state }) => `${role} ${state}`);
const idOf = async (customerId: string, role: string) =>
  (await methodsOf(customerId)).find((one) => one.role === role && one.state !== 'replaced')?.id ?? '';
/** What an invoice was tried with, and what came of it, in our own record. */
const tried = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select (a.request ->> 'token') || ' ' || a.state || case when a.goes_on then ' goes on' else '' end as said
       from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = $id order by a.id`,
      { id },
    )
  ).map(({ said }) => said);
const casesOf = async (id: string) =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select state || ' ' || decline_class as said from recovery_cases where subscription_id = $id order by id`,
      { id },
    )
  ).map(({ said }) => said);
const state = async (id: string) =>
  (await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`)).state;
/**
 * A day that stopped between two methods: the first was declined, and its answer came while nobody turned a page. The next is
 * tried when somebody does.
 */
async function stopped(): Promise<Enrolled & { readonly poor: string; readonly good: string }> {
  const [poor, good] = [await card({ code: '51' }, 'poor'), await card({}, 'good')];
  const one = await enrolled(poor);
  await give(one.customerId, good, 'fallback');
  await world.misbehave({ chargesAnswer: { status: 503, charged: true, page: true, times: 1 } });
  await turn();
  const attempt = await Attempt.findOne({ where: { state: 'under way' }, rejectOnEmpty: true });
  expect(await askGateway(world.almanac, attempt, await offering.today())).toBe('next method');
  return { ...one, poor, good };
}

describe('one day’s attempt', () => {
  test('the fallback is charged on the same day, with no case and no letter but the receipt for it', async () => {
    const [poor, good] = [await card({ code: '51' }, 'poor'), await card({}, 'good')];
    const { id, customerId } = await enrolled(poor);
    await give(customerId, good, 'fallback');
    await turn();
    expect(await tried(id)).toEqual([`${poor} declined`, `${good} collected`]);
    expect(await casesOf(id)).toEqual([]);
    expect(await state(id)).toBe('active');
    const letters = await lettersWhere(world.almanac, 'l.subscription_id = $id', { id });
    expect(letters.map(({ event }) => event).toSorted()).toEqual(['mandate confirmed', 'receipt', 'started']);
    const keys = (await world.chargesAtGateway()).map(({ idempotencyKey }) => idempotencyKey);
    expect(new Set(keys).size).toBe(keys.length);
  });

  test('where all are declined there is one case, and it waits where one of them may work later', async () => {
    const [poor, lost] = [
      await card({ code: '51' }, 'poor'),
      await card({ code: '41', from: '2000-01-01' }, 'lost'),
    ];
    // A lost card would be refused when it is given: it is lost later.
    const { id, customerId } = await enrolled(poor);
    const later = await card({ code: '41', from: await offering.later(1) }, 'lost-later');
    await give(customerId, later, 'fallback');
    expect(
      (await offering.ask('post', `/api/customers/${customerId}/card`, { token: lost })).body.errors[0],
    ).toMatchObject({ pointer: '/token', detail: expect.stringContaining('reported lost') as string });
    await turn();
    // On the first day the fallback works; the case is of the second subscription, on the day on which it is lost.
    expect(await tried(id)).toEqual([`${poor} declined`, `${later} collected`]);
    const second = await enrolled(poor, { customer: { id: customerId }, cardToken: undefined });
    await turn();
    expect(await tried(second.id)).toEqual([`${poor} declined`, `${later} declined`]);
    expect(await casesOf(second.id)).toEqual(['open wait']);
    expect(await roles(customerId)).toEqual(['primary usable', 'fallback barred']);
    // The next rung tries what can be tried, and that alone.
    await turn(5);
    const all = await tried(second.id);
    expect(all.length).toBeGreaterThan(2);
    expect(all.slice(2).every((one) => one === `${poor} declined`)).toBe(true);
  });

  test('a retry tries them in their turn too, and what the fallback collects closes the case', async () => {
    const poor = await card({ code: '51' }, 'poor');
    const { id, customerId } = await enrolled(poor);
    const late = await card({ code: '51', firstTries: 1 }, 'works-at-last');
    await give(customerId, late, 'fallback');
    await turn();
    expect(await casesOf(id)).toEqual(['open wait']);
    await turn(5);
    expect(await casesOf(id)).toEqual(['recovered wait']);
    expect((await tried(id)).at(-1)).toBe(`${late} collected`);
    expect(await state(id)).toBe('active');
  });

  test('an attempt that has no answer moves to no other method', async () => {
    const [silent, good] = [await card({ silent: true }, 'silent'), await card({}, 'good')];
    const { id, customerId } = await enrolled(silent);
    await give(customerId, good, 'fallback');
    await world.misbehave({ chargesAnswer: { status: 503, charged: false, page: true } });
    await turn();
    await turn();
    await world.misbehave({});
    expect(await tried(id)).toEqual([`${silent} under way`]);
    await turn();
    // It was asked for again, made, and found: charged once, with the card that it was begun with.
    expect(await tried(id)).toEqual([`${silent} collected`]);
  });

  test('what stopped between two methods is gone on with, once, whoever takes it up', async () => {
    const { id, poor, good } = await stopped();
    expect(await tried(id)).toEqual([`${poor} declined goes on`]);
    expect(await casesOf(id)).toEqual([]);
    await turn();
    expect(await tried(id)).toEqual([`${poor} declined`, `${good} collected`]);
  });

  test('what is paid by hand by then is not charged to the next method', async () => {
    const { id, poor } = await stopped();
    await world.almanac.db.rows(`update subscriptions set collects = 'by hand' where id = $id`, { id });
    await turn();
    expect(await tried(id)).toEqual([`${poor} declined`]);
    expect(await casesOf(id)).toHaveLength(1);
  });

  test('a fallback that is withdrawn before its turn leaves the answer that there was', async () => {
    const { id, customerId, poor } = await stopped();
    await offering.done(
      'post',
      `/api/customers/${customerId}/methods/${await idOf(customerId, 'fallback')}/withdrawal`,
    );
    await turn();
    expect((await tried(id)).slice(0, 1)).toEqual([`${poor} declined`]);
    expect(await casesOf(id)).toEqual(['open wait']);
  });
});

describe('a subscription’s own method', () => {
  test('comes first for it alone, the customer’s others after it', async () => {
    const [first, own] = [await card({}, 'first'), await card({ code: '51' }, 'own')];
    const one = await enrolled(first);
    const two = await enrolled(own, { customer: { id: one.customerId }, cardRole: 'own' });
    expect(await roles(one.customerId)).toEqual(['primary usable', 'own usable']);
    await turn();
    expect(await tried(one.id)).toEqual([`${first} collected`]);
    expect(await tried(two.id)).toEqual([`${own} declined`, `${first} collected`]);
    // A card on file can be chosen for another enrolment, and for one that runs.
    const methodId = await idOf(one.customerId, 'own');
    const three = await enrolled(own, { customer: { id: one.customerId }, cardToken: undefined, methodId });
    await offering.done('put', `/api/subscriptions/${one.id}/method`, { methodId });
    expect((await methodsOf(one.customerId)).find(({ role }) => role === 'own')?.own).toHaveLength(3);
    await offering.done('put', `/api/subscriptions/${three.id}/method`, { methodId: null });
    const list = await offering.done<{ rows: { id: string; method: string }[] }>(
      'get',
      `/api/subscriptions?customerId=${one.customerId}`,
    );
    expect(list.rows).toHaveLength(3);
  });

  test('is never that of another customer', async () => {
    const mine = await enrolled(await card({}, 'mine'));
    const other = await enrolled(await card({}, 'other'));
    const methodId = await idOf(other.customerId, 'primary');
    const answer = await offering.ask('put', `/api/subscriptions/${mine.id}/method`, { methodId });
    expect(answer.status).toBe(404);
    const enrolment = await offering.enrol(rateId, { customer: { id: mine.customerId }, methodId }, false);
    expect(enrolment.body.errors[0].pointer).toBe('/cardToken');
    for (const path of ['checks', 'primary', 'withdrawal'])
      expect(
        (await offering.ask('post', `/api/customers/${mine.customerId}/methods/${methodId}/${path}`)).status,
        path,
      ).toBe(404);
  });
});

describe('a mandate that is withdrawn', () => {
  test('the effect is shown first; the fallback becomes the first; both sides are told; its evidence stays', async () => {
    const { id, customerId } = await enrolled(await card({}, 'first'));
    await give(customerId, await card({}, 'second'), 'fallback');
    const path = `/api/customers/${customerId}/methods/${await idOf(customerId, 'primary')}/withdrawal`;
    const before = await offering.done<object>('get', path);
    expect(before).toMatchObject({ goesOn: [{ plan: 'Rows' }], left: [], primary: 'Larkfield ending 4242' });
    expect(await roles(customerId)).toEqual(['primary usable', 'fallback usable']);
    expect(await offering.done('post', path)).toEqual(before);
    expect(await roles(customerId)).toEqual(['primary usable']);
    expect((await offering.ask('post', path)).status).toBe(404);
    const [letter] = (await lettersWhere(world.almanac, 'l.subscription_id = $id', { id })).filter(
      ({ event }) => event === 'mandate withdrawn',
    );
    expect(letter?.plain).toContain('we do not charge it any more');
    const told = await world.almanac.db.rows<{ plain: string }>(
      `select plain from staff_letters where kind = 'mandate revoked'`,
    );
    expect(told.map(({ plain }) => plain).join()).toContain('was withdrawn by staff');
    const former = (await methodsOf(customerId)).find(({ state: one }) => one === 'replaced');
    expect(former).toMatchObject({
      mandate: { withdrawnBy: 'staff', agreedText: expect.stringContaining('agreed') as string },
    });
  });

  test('by the customer on their own page: the last one leaves a case, without an attempt', async () => {
    const { id, customerId } = await enrolled(await card({}, 'only'));
    const link = await world.almanac.db.transaction((within) =>
      CustomerLink.create(
        { customerId, subscriptionId: id, expiresOn: '2031-01-01' },
        { transaction: within },
      ),
    );
    const own = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
    const view = `/api/own/${linkToken(world.almanac, link.id, 'view')}`;
    const methodId = await idOf(customerId, 'primary');
    const effect = await offering.stranger('post', `${own}/withdrawal/effect`, { methodId });
    expect(effect.body).toMatchObject({ left: ['Rows'], goesOn: [], primary: null });
    expect((await offering.stranger('post', `${view}/withdrawal`, { methodId })).status).toBe(403);
    expect((await offering.stranger('post', `${own}/withdrawal`, { methodId: '1' })).status).toBe(404);
    expect((await offering.stranger('post', `${own}/withdrawal`, { methodId })).status).toBe(201);
    await turn();
    expect(await tried(id)).toEqual([]);
    expect(await casesOf(id)).toEqual(['open ask']);
  });
});

describe('a card that is looked at', () => {
  test('authorising zero charges nothing, marks what its holder must mend, and takes the mark off again', async () => {
    const { customerId, id } = await enrolled(
      await card({ code: '62', from: await offering.later(1) }, 'restricted'),
    );
    const charges = (await world.chargesAtGateway()).length;
    const methodId = await idOf(customerId, 'primary');
    const path = `/api/customers/${customerId}/methods/${methodId}`;
    expect(await offering.done('post', `${path}/checks`)).toMatchObject({ good: true });
    expect(await world.chargesAtGateway()).toHaveLength(charges);
    await turn();
    await turn();
    expect(await state(id)).toBe('active');
    expect(await offering.done('post', `${path}/checks`)).toEqual({
      good: false,
      says: 'the card is restricted',
    });
    expect(await roles(customerId)).toEqual(['primary needs-customer']);
  });

  test('another expiry needs no new number: what is open is charged to it at once', async () => {
    const token = await card({}, 'runs-out');
    await world.moveCards([
      { token: `${token}-soon`, behaviour: {}, ...{ expiresYear: 2027, expiresMonth: 2 } },
    ]);
    const { id, customerId } = await enrolled(`${token}-soon`);
    const path = `/api/customers/${customerId}/methods/${await idOf(customerId, 'primary')}/expiry`;
    const past = await offering.ask('put', path, { expiresYear: 2020, expiresMonth: 1 });
    expect(past.body.errors[0].pointer).toBe('/expires');
    await world.turnTo('2027-03-02');
    await world.almanac.db.rows(
      `update payment_methods set state = 'needs-customer' where customer_id = $customerId`,
      { customerId },
    );
    const answer = await offering.done<{ card: string }>('put', path, { expiresYear: 2033, expiresMonth: 2 });
    expect(answer.card).toContain('2/2033');
    expect(await roles(customerId)).toEqual(['primary usable']);
    expect(await state(id)).not.toBe('lapsed');
  });

  test('another expiry of the card of one subscription leaves the cases of the others as they are', async () => {
    const [poor, own] = [await card({ code: '51' }, 'poor'), await card({}, 'own')];
    const one = await enrolled(poor);
    await turn();
    expect(await casesOf(one.id)).toEqual(['open wait']);
    await enrolled(own, { customer: { id: one.customerId }, cardRole: 'own' });
    const path = `/api/customers/${one.customerId}/methods/${await idOf(one.customerId, 'own')}/expiry`;
    const answer = await offering.done<{ charged: object[] }>('put', path, {
      ...{ expiresYear: 2034, expiresMonth: 2 },
    });
    expect(answer.charged).toEqual([]);
    expect(await tried(one.id)).toEqual([`${poor} declined`]);
    expect(await casesOf(one.id)).toEqual(['open wait']);
  });

  test('a gateway that is away changes nothing and says so', async () => {
    const { customerId } = await enrolled(await card({}, 'kept'));
    const path = `/api/customers/${customerId}/methods/${await idOf(customerId, 'primary')}`;
    await world.misbehave({ down: true });
    expect((await offering.ask('post', `${path}/checks`)).status).toBe(503);
    const expiry = await offering.ask('put', `${path}/expiry`, { expiresYear: 2034, expiresMonth: 2 });
    expect(expiry.status).toBe(503);
    await world.misbehave({});
    expect(await roles(customerId)).toEqual(['primary usable']);
  });
});

test('a card read on the reader is charged by the channel of the reader', async () => {
  const asked = await offering.done<{ id: string; accountId: string; page: string }>(
    'post',
    '/api/card-reads',
    {
      rateId,
    },
  );
  const read = `/api/card-reads/${asked.accountId}/${asked.id}`;
  expect(await offering.done('get', read)).toMatchObject({ state: 'waiting', token: null });
  const present = (number: string) =>
    fetch(asked.page, { method: 'POST', body: new URLSearchParams({ read: asked.id, number }) });
  expect(await (await fetch(asked.page)).text()).toContain('Present a card');
  const [, number = ''] = /name="number" value="(\d+)"/.exec(await (await fetch(asked.page)).text()) ?? [];
  await present(number);
  const { token } = await offering.done<{ token: string }>('get', read);
  const { id } = await enrolled(token, { read: true });
  await turn();
  const [attempt] = await world.almanac.db.rows(
    `select a.channel, a.state from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = $id`,
    { id },
  );
  expect(attempt).toEqual({ channel: 'reader', state: 'collected' });
});
