import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
const lines = [{ name: 'Box', price: { scheme: 'flat', amount: '10.00' } }];
const ELSEWHERE = {
  ...{
    name: 'The bakery',
    address: '4 Sluice Lane\nBoston',
    postcode: 'PE21 8AB',
    region: '',
    country: 'GB',
  },
};
const person = (more: object = {}) => ({
  name: 'Ada Fenn',
  email: 'ada@post.example',
  another: true,
  ...more,
});

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  await setup({ serves: ['GB', 'NL', 'FR'], shipsTo: ['GB', 'NL'] });
  const rates = [
    ['GB', '20'],
    ['NL', '21'],
  ].map(([country, percent]) => ({
    ...{ country, region: '', percent, mode: 'exclusive', validFrom: '2020-01-01', validTo: null },
  }));
  const { id } = await offering.done('post', '/api/taxes', { value: { name: 'VAT', rates } });
  const { version } = await offering.done<{ version: number }>('get', '/api/setup/taxing');
  await offering.done('put', '/api/setup/taxing', {
    version,
    value: { defaultTax: id, noTax: false, said: 'net' },
  });
});
afterAll(() => world.end());

async function setup(to: object): Promise<void> {
  const { version, value } = await offering.done<{ version: number; value: object }>(
    'get',
    '/api/setup/customers',
  );
  await offering.done('put', '/api/setup/customers', { version, value: { ...value, ...to } });
}
const customerOf = async (id: string) =>
  (await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`)).customerId;
const invoices = (id: string) =>
  world.almanac.db.rows<{ total: string; lines: { at?: string }[] }>(
    `select total::text, lines from invoices where subscription_id = $id order by id`,
    { id },
  );

test('goods go to an address, and to no country that is not shipped to; what is typed is checked by its country', async () => {
  const { rateId } = await offering.plan({ name: 'Box', kind: 'goods' }, { lines });
  const refused = async (more: object) => (await offering.enrol(rateId, more)).body.errors;
  expect(await refused({ customer: person() })).toMatchObject([{ pointer: '/place/address' }]);
  const french = { ...ELSEWHERE, postcode: '75001', country: 'FR' };
  expect(await refused({ customer: person(), place: french })).toMatchObject([
    { pointer: '/place/country', detail: expect.stringContaining('not shipped to France') },
  ]);
  expect(await refused({ customer: person(), place: { ...ELSEWHERE, postcode: '1234 AB' } })).toMatchObject([
    { pointer: '/place/postcode', detail: '1234 AB is no postcode of United Kingdom.' },
  ]);
  expect(
    await refused({ customer: person({ address: 'Dijk 1', postcode: 'PE21 8AB', country: 'NL' }) }),
  ).toMatchObject([{ pointer: '/place/postcode' }]);

  // Without another address they go to where the customer is billed.
  const home = { address: 'Dijk 1', postcode: '1234 AB', country: 'NL' };
  const dutch = await offering.enrolled(rateId, { customer: person(home) });
  expect(await offering.done('get', `/api/subscriptions/${dutch}`)).toMatchObject({
    place: { says: 'Dijk 1, 1234 AB, Netherlands' },
  });
  // A customer with a shipping address of their own has them sent there.
  const shipping = await offering.enrolled(rateId, { customer: person({ ...home, shipping: ELSEWHERE }) });
  expect(await offering.done('get', `/api/subscriptions/${shipping}`)).toMatchObject({
    place: { says: 'The bakery, 4 Sluice Lane, Boston, PE21 8AB, United Kingdom' },
  });
});

test('taxes are those of the place, which stands on the invoice; a change of it is followed by what comes', async () => {
  const { rateId } = await offering.plan({ name: 'Sensor' }, { lines });
  const customer = person({ country: 'GB' });
  const [here, there] = [
    await offering.enrolled(rateId, { customer }),
    await offering.enrolled(rateId, {
      customer,
      place: { ...ELSEWHERE, postcode: '1234 AB', country: 'NL' },
    }),
  ];
  const view = (id: string) =>
    offering.done<{ coming: { due: string }[] }>('get', `/api/subscriptions/${id}`);
  expect((await view(there)).coming[0]?.due).toBe('1210');
  await world.turnTo('2027-01-05');
  expect(await invoices(here)).toMatchObject([{ total: '1200' }]);
  expect(await invoices(there)).toMatchObject([
    { total: '1210', lines: [{ at: 'The bakery, 4 Sluice Lane, Boston, 1234 AB, Netherlands' }] },
  ]);

  const change = (place: object | null) =>
    offering.ask('put', `/api/subscriptions/${there}/place`, { place });
  expect((await change({ ...ELSEWHERE, country: 'US', postcode: '' })).body.errors).toMatchObject([
    { pointer: '/place/country' },
  ]);
  expect((await change({ ...ELSEWHERE, address: ' ' })).body.errors).toMatchObject([
    { pointer: '/place/address' },
  ]);
  expect((await change(null)).status).toBeLessThan(300);
  expect((await view(there)).coming[0]?.due).toBe('1200');
  await world.turnTo('2027-02-05');
  expect((await invoices(there)).map(({ total, lines }) => [total, lines[0]?.at !== undefined])).toEqual([
    ['1210', true],
    ['1200', false],
  ]);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('what was shown is refused where another place gives another tax', async () => {
  const { rateId } = await offering.plan({ name: 'Shown' }, { lines });
  const starts = await offering.today();
  const asked = { rateId, starts, customer: { country: 'GB' } };
  const { dues } = await offering.done<{ dues: object[] }>('post', '/api/reckonings', asked);
  const place = { ...ELSEWHERE, postcode: '', country: 'NL' };
  const wanted = { customer: person({ country: 'GB' }), shown: dues };
  expect((await offering.enrol(rateId, { ...wanted, place })).status).toBe(409);
  expect((await offering.enrol(rateId, wanted)).status).toBe(201);
});

test('fields of the business’s own are asked of the new, kept, changed, given out and erased', async () => {
  await setup({
    fields: [
      { label: 'Plot', required: true },
      { label: 'Nickname', required: false },
    ],
  });
  const { rateId } = await offering.plan({ name: 'Fields' }, { lines });
  const enrol = (fields: object) => offering.enrol(rateId, { customer: person({ country: 'GB', fields }) });
  expect((await enrol({ Nickname: 'Addy' })).body.errors).toMatchObject([
    { pointer: '/customer/fields/Plot' },
  ]);
  expect((await enrol({ Plot: '7', Shoe: '39' })).body.errors).toMatchObject([
    { pointer: '/customer/fields' },
  ]);
  const { id } = (await enrol({ Plot: '7' })).body as { id: string };
  const customerId = await customerOf(id);
  const read = () => offering.done<Record<string, unknown>>('get', `/api/customers/${customerId}`);
  expect(await read()).toMatchObject({ fields: { Plot: '7' } });
  const { version, id: _, reference: __, createdOn: ___, ...value } = await read();
  const change = (to: object) =>
    offering.ask('put', `/api/customers/${customerId}`, { version, value: { ...value, ...to } });
  expect((await change({ fields: {} })).body.errors).toMatchObject([{ pointer: '/value/fields/Plot' }]);
  expect((await change({ postcode: '99' })).body.errors).toMatchObject([{ pointer: '/value/postcode' }]);
  const to = { fields: { Plot: '8', Nickname: 'Addy' }, postcode: 'PE21 8AB', shipping: ELSEWHERE };
  expect((await change(to)).status).toBeLessThan(300);
  expect(await read()).toMatchObject(to);

  const held = async () =>
    JSON.stringify(
      await world.almanac.db.rows(
        `select c.fields, c.shipping, c.postcode, s.served_at, s.invoice_fields, m.holder
         from customers c join subscriptions s on s.customer_id = c.id join payment_methods m on m.customer_id = c.id
         where c.id = $customerId`,
        { customerId },
      ),
    );
  await offering.done('put', `/api/subscriptions/${id}/place`, { place: ELSEWHERE });
  await world.almanac.db.rows(
    `update payment_methods set holder = 'Adeline' where customer_id = $customerId`,
    {
      customerId,
    },
  );
  expect(await held()).toMatch(/Addy.*The bakery.*Sluice.*Adeline/);
  // All of it is given out to whoever asks what is held.
  const everything = await offering.done('get', `/api/customers/${customerId}/everything.json`);
  expect(JSON.stringify(everything)).toMatch(/Addy/);
  for (const known of ['The bakery', 'Adeline', 'PE21 8AB'])
    expect(JSON.stringify(everything)).toContain(known);
  await world.turnTo('2027-02-06');
  await offering.done('post', `/api/subscriptions/${id}/alter`, { kind: 'cancel', when: 'now' });
  await world.turnTo('2027-02-07');
  await world.almanac.db.rows(`update letters set state = 'sent' where customer_id = $customerId`, {
    customerId,
  });
  await offering.done('post', `/api/customers/${customerId}/erasure`);
  expect(await held()).not.toMatch(/Addy|bakery|Sluice|PE21|Adeline/);
});
