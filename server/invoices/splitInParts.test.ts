import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

// An open invoice that is paid in parts: each is charged, reminded of and recovered by itself, and the invoice stays.

let world: World;
let offering: Offering;
let rateId: string;
let cards = 0;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Kit', price: { scheme: 'flat', amount: '100.00' } }];
  ({ rateId } = await offering.plan(
    { name: 'Kit' },
    { lines, interval: 'P1Y' },
    { methods: ['card', 'invoice'] },
  ));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const turn = async (days: number) => world.turnTo(await offering.later(days));
async function enrolled(behaviour: object): Promise<string> {
  cards += 1;
  const cardToken = `card-of-parts-${cards}`;
  await world.moveCards([{ token: cardToken, behaviour }]);
  return offering.enrolled(rateId, { cardToken }, false);
}
const invoiceOf = async (id: string) =>
  (await world.almanac.db.row<{ id: string; state: string; collected: string }>(
    'select id::text, state, collected::text from invoices where subscription_id = $id order by id limit 1',
    { id },
  )) ?? { id: '', state: '', collected: '' };
const split = async (invoiceId: string, more: object = {}) =>
  offering.ask('post', `/api/invoices/${invoiceId}/parts`, {
    ...{ parts: 3, every: 'P1M', firstOn: await offering.today() },
    ...more,
  });
const attempts = (id: string) =>
  world.almanac.db.rows<{ amount: string; state: string }>(
    `select a.amount::text, a.state from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $id order by a.id`,
    { id },
  );
const cases = async (id: string) =>
  (
    await world.almanac.db.rows<{ state: string }>(
      'select state from recovery_cases where subscription_id = $id order by id',
      { id },
    )
  ).map(({ state }) => state);

describe('what could not be paid at once', () => {
  test('is charged part by part from the day agreed, and its case is closed', async () => {
    const id = await enrolled({ code: '51', until: await offering.later(2) });
    await turn(1);
    expect(await cases(id)).toEqual(['open']);
    const invoice = await invoiceOf(id);
    const firstOn = await offering.later(3);
    const asked = { parts: 3, every: 'P1W', firstOn };
    const effect = await offering.done<{ parts: object[]; closesCase: boolean }>(
      'post',
      `/api/invoices/${invoice.id}/parts/effect`,
      asked,
    );
    expect(effect).toMatchObject({
      closesCase: true,
      parts: [{ dueOn: firstOn, amount: '3334' }, { amount: '3333' }, { amount: '3333' }],
    });
    expect(await cases(id)).toEqual(['open']);
    expect((await split(invoice.id, asked)).body).toEqual(effect);
    expect(await cases(id)).toEqual(['recovered']);
    expect((await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`)).state).toBe('active');
    const letters = await lettersWhere(world.almanac, 'l.subscription_id = $id', { id });
    expect(letters.find(({ event }) => event === 'invoice in parts')?.plain).toContain('£33.34 on');
    await turn(2);
    expect(await attempts(id)).toHaveLength(1);
    await turn(16);
    expect((await attempts(id)).map(({ amount, state }) => `${amount} ${state}`)).toEqual([
      '10000 declined',
      '3334 collected',
      '3333 collected',
      '3333 collected',
    ]);
    expect(await invoiceOf(id)).toMatchObject({ state: 'paid', collected: '10000' });
  });

  test('a part that is declined is a case of its own, and the next part is not tried before it is due', async () => {
    const id = await enrolled({ code: '51' });
    await turn(1);
    const invoice = await invoiceOf(id);
    expect((await split(invoice.id, { parts: 2, firstOn: await offering.later(2) })).status).toBe(201);
    await turn(3);
    const tried = await attempts(id);
    expect(tried.slice(1).every(({ amount, state }) => amount === '5000' && state === 'declined')).toBe(true);
    expect(await cases(id)).toEqual(['recovered', 'open']);
  });

  test('an invoice that nobody has tried yet is charged by its first part alone', async () => {
    cards += 1;
    const cardToken = `card-of-parts-${cards}`;
    await world.moveCards([{ token: cardToken, behaviour: {} }]);
    const id = await offering.enrolled(rateId, { cardToken, own: { termDays: 10 } }, false);
    await turn(1);
    const invoice = await invoiceOf(id);
    expect([invoice.state, await attempts(id)]).toEqual(['issued', []]);
    expect((await split(invoice.id, { firstOn: await offering.later(1) })).status).toBe(201);
    await turn(12);
    expect((await attempts(id)).map(({ amount, state }) => `${amount} ${state}`)).toEqual(['3334 collected']);
    await turn(60);
    expect(await invoiceOf(id)).toMatchObject({ state: 'paid', collected: '10000' });
  });

  test('what has lapsed is not charged any more, in parts neither', async () => {
    const id = await enrolled({ code: '51' });
    await turn(40);
    expect((await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`)).state).toBe('lapsed');
    const answer = await split((await invoiceOf(id)).id);
    expect([answer.status, answer.body.detail]).toEqual([409, expect.stringContaining('lapsed')]);
  });

  test('what is being charged just now cannot be split, nor what is paid', async () => {
    const id = await enrolled({});
    await world.misbehave({ down: true });
    await turn(1);
    await world.misbehave({});
    const waiting = await invoiceOf(id);
    // It is being charged: nobody knows yet how that comes out.
    const answer = await split(waiting.id);
    expect([answer.status, answer.body.detail]).toEqual([409, expect.stringContaining('being charged')]);
    await turn(1);
    expect(await invoiceOf(id)).toMatchObject({ state: 'paid' });
    expect((await split(waiting.id)).status).toBe(409);
  });
});

test.each([
  { of: { parts: 1 }, at: '/parts' },
  { of: { parts: 25 }, at: '/parts' },
  { of: { every: 'P1D' }, at: '/every' },
  { of: { firstOn: '2020-01-01' }, at: '/firstOn' },
  { of: { firstOn: '2029-01-01' }, at: '/firstOn' },
])('$of is refused beside its field', async ({ of, at }) => {
  const id = await enrolled({ code: '51' });
  await turn(1);
  const answer = await split((await invoiceOf(id)).id, of);
  expect([answer.status, answer.body.errors?.[0]?.pointer]).toEqual([422, at]);
});

describe('an amount that no plan has', () => {
  test('comes with the next invoice, or with one of its own at once; customers cannot ask for it', async () => {
    const id = await enrolled({});
    await turn(1);
    const path = `/api/subscriptions/${id}/alter`;
    const now = { kind: 'amount', name: 'A new queen', amount: '12.50', from: 'now' };
    const later = { ...now, name: 'Wax', amount: '3.00', from: 'renewal' };
    expect((await offering.ask('post', path, now)).body.says).toBe(
      'A new queen is added, £12.50, charged at once',
    );
    expect((await offering.ask('post', path, later)).status).toBeLessThan(300);
    await turn(1);
    expect((await attempts(id)).map(({ amount }) => amount)).toEqual(['10000', '1250']);
    const next = await offering.done<{ coming: { due: string }[] }>('get', `/api/subscriptions/${id}`);
    expect(next.coming[0]?.due).toBe('10300');
    for (const amount of ['0', '1.234', '-1', 'x'])
      expect((await offering.ask('post', path, { ...now, amount })).body.errors[0].pointer, amount).toBe(
        '/amount',
      );
    expect((await offering.ask('post', path, { ...now, name: ' ' })).body.errors[0].pointer).toBe('/name');
  });
});
