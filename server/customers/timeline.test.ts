import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { Mailing } from '../notices/mailing.ts';
import { MailRoute } from '../notices/mailRoute.ts';
import { verify } from '../verify/verify.ts';
import { MOMENT_KINDS } from './contactKinds.ts';
import type { Moment } from './contactMessages.ts';

let world: World;
let offering: Offering;
let customerId: string;
let id: string;
let other: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Row', price: { scheme: 'each', amount: '12.00' } }];
  const { rateId } = await offering.plan({ name: 'Rows' }, { lines });
  await world.moveCards([{ token: 'card-that-fails-once', behaviour: { code: '51', firstTries: 1 } }]);
  const enrolled = await offering.enrol(rateId, { cardToken: 'card-that-fails-once' }, false);
  ({ id, customerId } = enrolled.body as { id: string; customerId: string });
  other = await offering.enrolled(rateId);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const contacts = () => `/api/customers/${customerId}/contacts`;
const add = (more: object) =>
  offering.ask('post', contacts(), { name: 'Tess', email: 'tess@treasurer.example', ...more });
const lettersTo = async (to: string) =>
  (await lettersWhere(world.almanac, 'l.to_address = $to', { to })).map(({ event }) => event);
const timeline = async (query = '', of = customerId) =>
  (await offering.done<{ rows: Moment[]; total: number }>('get', `/api/customers/${of}/timeline${query}`))
    .rows;

describe('people beside a customer', () => {
  test('each gets the letters that they want and no others, with a fate of their own', async () => {
    expect((await add({ letters: ['payments'], role: 'Treasurer' })).status).toBe(201);
    expect(
      (await add({ email: 'acc@books.example', name: 'Abe', letters: ['payments', 'reminders'] })).status,
    ).toBe(201);
    expect((await add({ email: 'idle@nowhere.example', name: 'Ida' })).status).toBe(201);
    await world.turnTo('2027-01-05');
    expect(await lettersTo('tess@treasurer.example')).toEqual([]);
    expect(await lettersTo('acc@books.example')).toEqual(['payment declined']);
    await world.turnTo('2027-01-12');
    expect(await lettersTo('tess@treasurer.example')).toEqual(['receipt']);
    expect(await lettersTo('acc@books.example')).toEqual(['payment declined', 'receipt']);
    expect(await lettersTo('idle@nowhere.example')).toEqual([]);
    // The day is turned again: nobody gets anything twice.
    const before = await world.almanac.db.row('select count(*)::int as n from letters');
    await world.almanac.db.rows(`update business set business_date = '2027-01-11'`);
    await world.turnTo('2027-01-12');
    expect(await world.almanac.db.row('select count(*)::int as n from letters')).toEqual(before);
    const route = new MailRoute(world.almanac);
    await new Mailing(world.almanac, route).round(new Date('2027-01-12T12:00:00Z'));
    route.close();
    expect(world.mail().filter((letter) => letter.includes('To: tess@treasurer.example'))).toHaveLength(1);
  });

  test('what is not good is refused beside its field, and nobody’s contact is another’s', async () => {
    expect((await add({})).body.errors[0].pointer).toBe('/email');
    expect((await add({ email: 'TESS@treasurer.example' })).body.errors[0].pointer).toBe('/email');
    expect((await add({ email: 'none' })).body.errors[0].pointer).toBe('/email');
    expect((await add({ email: 'x@post.example', name: ' ' })).body.errors[0].pointer).toBe('/name');
    expect((await add({ email: 'x@post.example', letters: ['gossip'] })).body.errors[0].pointer).toBe(
      '/letters/0',
    );
    const [tess] = (await offering.done<{ id: string; name: string }[]>('get', contacts())).filter(
      ({ name }) => name === 'Tess',
    );
    const { customerId: stranger } = await offering.done<{ customerId: string }>(
      'get',
      `/api/subscriptions/${other}`,
    );
    const theirs = `/api/customers/${stranger}/contacts/${tess?.id}`;
    expect((await offering.ask('delete', theirs)).status).toBe(404);
    const full = { name: 'Tess', email: 'tess@treasurer.example', letters: [] };
    expect((await offering.ask('put', theirs, full)).status).toBe(404);
    expect((await offering.ask('put', `${contacts()}/${tess?.id}`, full)).status).toBe(200);
    expect((await offering.ask('delete', `${contacts()}/${tess?.id}`)).status).toBeLessThan(300);
    // What she got stays in the letterbook.
    expect(await lettersTo('tess@treasurer.example')).toEqual(['receipt']);
  });
});

describe('the line of time', () => {
  test('has everything that happened with a customer, of nobody else, the newest first', async () => {
    await offering.done('post', `/api/customers/${customerId}/notes`, { says: 'Rings on Tuesdays' });
    await offering.done('post', `/api/customers/${customerId}/messages`, { says: 'Thank you for the honey' });
    await offering.done('post', `/api/subscriptions/${id}/alter`, {
      kind: 'quantity',
      quantity: 2,
      from: 'renewal',
    });
    const moments = await timeline();
    const kinds = new Set(moments.map(({ kind }) => kind));
    expect([...kinds].toSorted()).toEqual(
      Object.keys(MOMENT_KINDS)
        .filter((kind) => kind !== 'need')
        .toSorted(),
    );
    const days = moments.map(({ on }) => on);
    expect(days).toEqual(days.toSorted().toReversed());
    const says = moments.map((one) => one.says);
    expect(says).toContain('Rings on Tuesdays');
    expect(says.some((one) => /^£12\.00 declined, invoice \d+$/.test(one))).toBe(true);
    expect(says.some((one) => /^£12\.00 collected, invoice \d+$/.test(one))).toBe(true);
    expect(says.some((one) => one.startsWith('Enrolled: Rows, from'))).toBe(true);
    const mine = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${other}`);
    const theirs = await timeline('', mine.customerId);
    expect(theirs.some((one) => one.says === 'Rings on Tuesdays')).toBe(false);
    expect(new Set([...moments, ...theirs].map((one) => one.id)).size).toBe(moments.length + theirs.length);
  });

  test('is searched, filtered by kind, and read page by page', async () => {
    expect((await timeline('?search=tuesdays')).map(({ says }) => says)).toEqual(['Rings on Tuesdays']);
    expect((await timeline('?search=%25')).length).toBe(0);
    for (const kind of Object.keys(MOMENT_KINDS))
      expect((await timeline(`?kind=${kind}`)).every((one) => one.kind === kind)).toBe(true);
    await world.almanac.db.rows(
      `insert into notes (customer_id, says, written_on, written_by)
       select $customerId, 'note ' || n, '2027-01-12', 'Olga' from generate_series(1, 90) n`,
      { customerId },
    );
    const first = await timeline('?kind=note');
    const second = await timeline('?kind=note&page=2');
    expect([first.length, second.length]).toEqual([40, 40]);
    expect(new Set([...first, ...second].map((one) => one.id)).size).toBe(80);
  });

  test('a note belongs to the customer’s own subscription, and a reader writes none', async () => {
    const answer = await offering.ask('post', `/api/customers/${customerId}/notes`, {
      says: 'x',
      subscriptionId: other,
    });
    expect(answer.body.errors[0].pointer).toBe('/subscriptionId');
    expect(
      (await offering.stranger('post', `/api/customers/${customerId}/notes`, { says: 'x' })).status,
    ).toBe(401);
    expect((await offering.ask('post', `/api/customers/999999/notes`, { says: 'x' })).status).toBe(404);
  });
});
