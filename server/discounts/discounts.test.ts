import type { Express } from 'express';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let app: Express;
let ask: ReturnType<typeof asking>;
let rateId = '';
let planId = '';

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'owner')).cookie);
  await world.enrol([{}]);
  const [plan] = (await ask('get', '/api/plans')).body;
  [planId, rateId] = [plan.id, plan.rates[0].id];
});
afterAll(() => world.end());

const discount = (more: object = {}) => ({
  name: 'Spring',
  as: 'percent',
  off: '25',
  currency: null,
  payments: 2,
  appliesTo: 'recurring',
  plans: [],
  validFrom: null,
  validTo: null,
  mostUses: null,
  mostPerCustomer: null,
  stacks: false,
  ...more,
});
const make = async (more: object, code: string, mostUses: number | null = null): Promise<string> => {
  const made = await ask('post', '/api/discounts', { value: discount(more) });
  expect(made.status, JSON.stringify(made.body)).toBe(201);
  const given = await ask('post', `/api/discounts/${made.body.id}/codes`, { kind: 'one', code, mostUses });
  expect(given.status).toBe(201);
  return made.body.id;
};
let people = 0;
/** Enrols somebody new, or a customer there is, with codes. */
const enrol = async (codes: string[], id?: string) => {
  people += 1;
  const n = people;
  const token = `card-of-person-${n}`;
  await world.moveCards([{ token, behaviour: {} }]);
  const customer = id ? { id } : { name: `P ${n}`, email: `p${n}@post.example` };
  const starts = (await ask('get', '/api/business')).body.businessDate;
  return ask('post', '/api/subscriptions', { customer, rateId, starts, cardToken: token, codes });
};

test('a code takes off what it says, as long as it says, and the books agree', async () => {
  await make({}, 'spring-25');
  const { id } = (await enrol(['Spring-25'])).body;
  await world.turnTo('2027-03-10');
  const totals = await world.almanac.db.rows<{ total: string }>(
    'select total from invoices where subscription_id = $id order by id',
    { id },
  );
  expect(totals.map(({ total }) => total)).toEqual(['750', '750', '1000']);
  expect((await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0)).toEqual([]);
});

test('of a hundred who take the last use at once, one gets it', async () => {
  const id = await make({ name: 'Last one', mostUses: 1 }, 'LAST-ONE');
  const answers = await Promise.all(Array.from({ length: 100 }, () => enrol(['LAST-ONE'])));
  expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
  for (const { status, body } of answers)
    if (status !== 201)
      expect(body.errors[0]).toMatchObject({ pointer: '/codes/0', detail: 'This code has been used up.' });
  const counted = await world.almanac.db.row<{ used: number; uses: number; enrolled: number }>(
    `select d.used, (select count(*)::int from discount_uses u where u.discount_id = d.id) as uses,
       (select count(*)::int from customers where name like 'P %') as enrolled from discounts d where d.id = $id`,
    { id },
  );
  expect(counted).toEqual({ used: 1, uses: 1, enrolled: 2 });
});

test.each([
  ['a code nobody gave', {}, 'NOBODY', /not known/],
  ['a plan it is not for', { plans: ['999'] }, 'OTHER', /not for this plan/],
  ['a day before', { validFrom: '2030-01-01' }, 'EARLY', /valid from Tue 1 Jan 2030/],
  ['a day after', { validTo: '2027-02-01' }, 'LATE', /not valid any more/],
  ['another currency', { as: 'amount', off: '500', currency: 'JPY' }, 'YEN', /prices in JPY/],
])('it is refused for %s, and nobody is enrolled', async (name, more, code, says) => {
  if (code !== 'NOBODY') await make({ name, ...more }, code);
  const before = await world.almanac.db.row('select count(*) from customers');
  expect((await enrol([code])).body.errors[0].detail).toMatch(says);
  expect(await world.almanac.db.row('select count(*) from customers')).toEqual(before);
});

test('it counts a customer, and stands alone or beside others as it says', async () => {
  await make({ name: 'Once each', mostPerCustomer: 1, stacks: true }, 'EACH');
  await make({ name: 'With others', as: 'amount', off: '1.00', currency: 'GBP', stacks: true }, 'WITH');
  const first = (await enrol(['EACH', 'WITH'])).body;
  expect((await enrol(['EACH'], first.customerId)).body.errors[0].detail).toMatch(/as often as it allows/);
  expect((await enrol(['EACH', 'SPRING-25'])).body.errors[0]).toMatchObject({ pointer: '/codes/1' });
  const terms = await world.almanac.db.row<{ terms: { discounts: object[] } }>(
    'select terms from subscriptions where id = $id',
    first,
  );
  expect(terms?.terms.discounts).toEqual([
    { percent: '25', payments: 2 },
    { amount: '1.00', payments: 2 },
  ]);
});

test('many codes are made at once, each for one use, and come out as CSV', async () => {
  const made = await ask('post', '/api/discounts', { value: discount({ name: 'Fair', plans: [planId] }) });
  const { codes } = (
    await ask('post', `/api/discounts/${made.body.id}/codes`, { kind: 'many', count: 500, prefix: 'fair' })
  ).body;
  expect(new Set(codes).size).toBe(500);
  expect((await enrol([codes[7]])).status).toBe(201);
  expect((await enrol([codes[7]])).status).toBe(422);
  const csv = await ask('get', `/api/discounts/${made.body.id}/codes.csv`);
  expect(csv.headers['content-type']).toContain('text/csv');
  expect(csv.text.split('\r\n')).toHaveLength(502);
  expect(csv.text).toContain(`${codes[7]},1,1`);
  await ask('put', `/api/discounts/${made.body.id}/archived`, { archived: true });
  expect((await enrol([codes[8]])).body.errors[0].detail).toMatch(/not valid any more/);
});

test('one that was archived is refused, and comes back only while nobody has taken its name', async () => {
  const old = await make({ name: 'Harvest' }, 'HARVEST');
  const archive = (id: string, archived: boolean) =>
    ask('put', `/api/discounts/${id}/archived`, { archived });
  expect((await archive(old, true)).status).toBe(200);
  expect((await enrol(['HARVEST'])).status).toBe(422);
  const other = await make({ name: 'harvest' }, 'HARVEST-2');
  expect((await archive(old, false)).body.errors[0].detail).toBe('There is a discount of this name already.');
  await archive(other, true);
  expect((await archive(old, false)).status).toBe(200);
  expect((await enrol(['HARVEST'])).status).toBe(201);
  expect((await archive('999999', true)).status).toBe(404);
});
