import type { Express } from 'express';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { asking, signedIn, type Inside } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { clockDate } from '../run/clockDate.ts';
import { CustomerLink } from './CustomerLink.ts';
import { linkToken } from './link.ts';

let world: World;
let app: Express;
let owner: Inside;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  owner = await signedIn(world, 'owner', 'Olga');
  await world.enrol([{}, {}]);
  await world.turnTo('2027-01-06');
});
afterAll(() => world.end());

const ask = (...path: [string, object?]) => asking(app, owner.cookie)('post', ...path);
const audited = (did: string) =>
  world.almanac.db.rows('select subject from audit_entries where did = $did order by id', { did });

describe('a customer’s link', () => {
  const linkOf = async (n: number) => {
    const links = await world.almanac.db.rows<{ id: string; customer_id: string }>(
      'select id::text as subscription_id, customer_id::text from subscriptions order by id',
    );
    const of = links[n] as unknown as { subscription_id: string; customer_id: string };
    const link = await CustomerLink.create({
      ...{ customerId: of.customer_id, subscriptionId: of.subscription_id, expiresOn: '2035-01-01' },
    });
    return { customerId: of.customer_id, subscriptionId: of.subscription_id, id: link.id };
  };
  const stranger = asking as (app: Express, cookie?: string) => ReturnType<typeof asking>;
  const get = (token: string, cookie = '') => stranger(app, cookie)('get', `/api/own/${token}`);

  test('to look is good for whoever is signed in alone, and making one is on the audit', async () => {
    const { subscriptionId } = await linkOf(0);
    const { path } = (await ask(`/api/subscriptions/${subscriptionId}/own-page`)).body as { path: string };
    const token = path.split('/').at(-1) ?? '';
    expect((await get(token, owner.cookie)).body.readOnly).toBe(true);
    expect((await get(token)).status).toBe(403);
    expect(await audited('looked at a customer’s own page')).toHaveLength(1);
  });

  test('ends with its reason when the address changes, or when staff end it', async () => {
    const link = await linkOf(0);
    const token = linkToken(world.almanac, link.id, 'own');
    expect((await get(token)).status).toBe(200);
    const { body: customer } = await asking(app, owner.cookie)('get', `/api/customers/${link.customerId}`);
    const good = async () =>
      (await asking(app, owner.cookie)('get', `/api/customers/${link.customerId}/links`)).body.good;
    expect(await good()).toBeGreaterThan(0);
    const { id: _, reference: __, createdOn: ___, version, ...value } = customer;
    const moved = { version, value: { ...value, email: 'elsewhere@post.example' } };
    expect((await asking(app, owner.cookie)('put', `/api/customers/${link.customerId}`, moved)).status).toBe(
      200,
    );
    expect(await good()).toBe(0);
    const gone = await get(token);
    expect([gone.status, gone.body.detail]).toEqual([
      410,
      'This link has ended: letters go to another address now. Look for a newer letter from us, or write to us.',
    ]);
    const other = await linkOf(1);
    const second = linkToken(world.almanac, other.id, 'own');
    expect((await get(second)).status).toBe(200);
    expect((await ask(`/api/customers/${other.customerId}/links/end`)).body.ended).toBeGreaterThan(0);
    expect((await get(second)).body.detail).toContain('we ended it');
    const paid = await stranger(app)('post', `/api/own/${second}/message`, { text: 'Still here?' });
    expect(paid.status).toBe(410);
    expect(await audited('ended a customer’s links')).toHaveLength(1);
  });

  test('takes so many messages and codes a day, whichever link they come by', async () => {
    const [one, two] = [await linkOf(1), await linkOf(1)];
    const tokens = [one, two].map(({ id }) => linkToken(world.almanac, id, 'own'));
    const statuses = [];
    for (let n = 0; n < 14; n += 1) {
      const { status } = await stranger(app)('post', `/api/own/${tokens[n % 2]}/message`, {
        text: `Message ${n}`,
      });
      statuses.push(status);
    }
    expect(statuses.filter((status) => status === 201)).toHaveLength(10);
    expect(statuses.at(-1)).toBe(429);
    const codes = [];
    for (let n = 0; n < 22; n += 1) {
      const asked = { kind: 'code', code: `GUESS-${n}` };
      codes.push((await stranger(app)('post', `/api/own/${tokens[0]}/effect`, asked)).status);
    }
    expect(codes.filter((status) => status === 429)).toHaveLength(2);
    // Another server of the same business counts on: the count is in the database.
    const next = makeApp(world.almanac, world.almanac.config, '/nowhere').app;
    const asked = await stranger(next)('post', `/api/own/${tokens[1]}/message`, { text: 'Once more' });
    expect(asked.status).toBe(429);
  });
});

test('by the clock, the page and a new card are of today, not of the last day that was turned', async () => {
  const { db } = world.almanac;
  await db.rows(`update business set practice = false, business_date = '2027-01-06'`);
  const today = clockDate('Europe/London', new Date());
  const [of] = await db.rows<{ id: string; customer: string }>(
    'select id::text, customer_id::text as customer from subscriptions order by id',
  );
  const link = await CustomerLink.create({
    ...{ customerId: of?.customer ?? '', subscriptionId: of?.id ?? '', expiresOn: '9999-01-01' },
  });
  const page = await asking(app)('get', `/api/own/${linkToken(world.almanac, link.id, 'own')}`);
  expect(page.body.businessDate).toBe(today);
  await world.moveCards([{ token: 'card-given-today', behaviour: {} }]);
  expect((await ask(`/api/customers/${of?.customer}/card`, { token: 'card-given-today' })).status).toBe(201);
  const mandates = await db.rows('select given_on as on from mandates order by id desc limit 1');
  expect(mandates).toEqual([{ on: today }]);
});
