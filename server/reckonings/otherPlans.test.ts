import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let watch: { planId: string; rateId: string };
let jars: { planId: string; rateId: string };
const taxes: Record<string, string> = {};
const person = (n: number) => ({ name: `Q ${n}`, email: `q${n}@post.example`, country: 'GB' });
const PER_HIVE = [{ name: 'Per hive', price: { scheme: 'each', amount: '4.50' } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const tax = async (name: string, percent: string, mode: string) => {
    const rate = { country: 'GB', region: '', percent, mode, validFrom: '2020-01-01', validTo: null };
    const value = { name, rates: [rate, { ...rate, country: 'NL', percent: '21' }] };
    taxes[name] = (await offering.done('post', '/api/taxes', { value })).id;
  };
  await tax('Standard', '20', 'exclusive');
  await tax('Food', '5', 'inclusive');
  const { version } = await offering.done<{ version: number }>('get', '/api/setup/taxing');
  await offering.done('put', '/api/setup/taxing', {
    version,
    value: { defaultTax: taxes.Standard, noTax: false, said: 'net' },
  });
  watch = await offering.plan({ name: 'Watch' }, { lines: PER_HIVE }, { account: '4010 Watch' });
  const { id: planId } = await offering.done('post', '/api/plans', {
    ...{ name: 'Shelf', kind: 'service' },
    rate: {
      ...{ name: 'Monthly', options: { account: '4020 Honey' } },
      taxChoice: { kind: 'tax', id: taxes.Food },
      terms: {
        ...{ currency: 'GBP', interval: 'P1M' },
        lines: [{ name: 'Jars', price: { scheme: 'each', amount: '7.35' } }],
        trial: { length: 'P14D' },
        setup: { amount: '9.00' },
      },
    },
  });
  const { rates } = await offering.done<{ rates: { id: string }[] }>('get', `/api/plans/${planId}`);
  jars = { planId, rateId: rates[0]?.id ?? '' };
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const invoices = (id: string) =>
  world.almanac.db.rows<{ id: string; total: string; tax: string; lines: object[]; account: string }>(
    `select id::text, total::text, tax::text, lines, account from invoices where subscription_id = $id order by id`,
    { id },
  );
const sales = async (invoiceId: string) =>
  Object.fromEntries(
    (
      await world.almanac.db.rows<{ code: string; amount: string }>(
        `select a.code, sum(l.amount)::text as amount from journal_lines l join accounts a on a.id = l.account_id
         where l.invoice_id = $invoiceId and a.kind = 'sales' group by a.code`,
        { invoiceId },
      )
    ).map(({ code, amount }) => [code, amount]),
  );

test('lines of another plan are charged with a subscription, each with the tax and on the account of its own rate', async () => {
  const beside = [{ rateId: jars.rateId, quantity: 3 }];
  const id = await offering.enrolled(watch.rateId, { customer: person(1), quantity: 2, beside });
  // 2 × 4.50 and 20 % on it; 3 × 7.35, which holds 5 %. Neither the trial nor the set-up of the other plan comes with them.
  const { coming, says } = await offering.done<{ coming: { due: string }[]; says: string }>(
    'get',
    `/api/subscriptions/${id}`,
  );
  expect(says).toBe('£32.85 with its taxes every month for 2 × Per hive and 3 × Jars');
  expect(coming.slice(0, 2).map(({ due }) => due)).toEqual(['3285', '3285']);
  await world.turnTo('2027-01-05');
  const [first] = await invoices(id);
  expect(first).toMatchObject({ total: '3285', tax: '285', account: '4010 Watch' });
  expect(first?.lines).toMatchObject([
    { name: 'Per hive', amount: '900', tax: 0 },
    { name: 'Jars', amount: '2205', tax: 1, account: '4020 Honey' },
  ]);
  expect(first?.lines[0]).not.toHaveProperty('account');
  expect(await sales(first?.id ?? '')).toEqual({ '4010 Watch': '-900', '4020 Honey': '-2100' });
});

test('a change settles such a line with its own tax, on its own account, and a move of its customer moves both taxes', async () => {
  const id = await offering.enrolled(watch.rateId, {
    ...{ customer: person(2), beside: [{ rateId: jars.rateId, quantity: 1 }] },
  });
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  await world.turnTo('2027-01-10');
  const { extras } = await offering.done<{ extras: { extra: { key: string } }[] }>(
    'get',
    `/api/subscriptions/${id}`,
  );
  const key = extras[0]?.extra.key;
  await world.turnTo('2027-01-20');
  await offering.done('post', `/api/subscriptions/${id}/alter`, {
    kind: 'extra',
    key,
    quantity: 2,
    from: 'now',
  });
  await world.turnTo('2027-01-25');
  const rows = await invoices(id);
  const change = rows.at(-1);
  expect(rows).toHaveLength(2);
  expect((change?.lines as { account?: string }[]).map(({ account }) => account)).toEqual(
    Array(change?.lines.length).fill('4020 Honey'),
  );
  const net = BigInt(change?.total ?? 0) - BigInt(change?.tax ?? 0);
  // 5 % are in it, none of 20 %.
  expect(Number(change?.tax) / Number(net)).toBeCloseTo(0.05, 2);
  expect(await sales(change?.id ?? '')).toEqual({ '4020 Honey': String(-net) });

  expect((await offering.changeCustomer(customerId, { country: 'NL' })).status).toBe(200);
  await world.turnTo('2027-02-10');
  // 4.50 and 21 % on it, 14.70 that hold 21 %.
  expect((await invoices(id)).at(-1)).toMatchObject({ total: '2015', tax: '350' });
});

test('what has other dates, another currency or instalments is refused beside the plan that it is of', async () => {
  const yearly = await offering.plan({ name: 'Yearly' }, { interval: 'P1Y', lines: PER_HIVE });
  const euro = await offering.plan({ name: 'Euro' }, { currency: 'EUR', lines: PER_HIVE });
  const kit = await offering.plan(
    { name: 'Kit' },
    { lines: [{ price: { scheme: 'instalments', total: '70.00' } }], ends: { after: 7 }, stub: 'free' },
  );
  const variants = await offering.plan({ name: 'Archived' }, { lines: PER_HIVE });
  await offering.done('put', `/api/rates/${variants.rateId}/archived`, { archived: true });
  const before = await world.almanac.db.rows('select count(*) from subscriptions');
  for (const [{ rateId }, says] of [
    [yearly, 'It has another interval'],
    [euro, 'It is charged in EUR'],
    [kit, 'instalments'],
    [variants, 'archived'],
  ] as const) {
    const refused = await offering.enrol(watch.rateId, { beside: [{ rateId: jars.rateId }, { rateId }] });
    expect([refused.status, refused.body.errors], says).toMatchObject([
      422,
      [{ pointer: '/beside/1/rateId', detail: expect.stringContaining(says) }],
    ]);
  }
  const many = await offering.enrol(watch.rateId, { beside: [{ rateId: jars.rateId, quantity: 0 }] });
  expect(many.body.errors).toMatchObject([{ pointer: '/beside/0/quantity' }]);
  expect(await world.almanac.db.rows('select count(*) from subscriptions')).toEqual(before);
});

test('goods among them go to an address; a line is left out later, and a line of the plan’s own may not take its name', async () => {
  const goods = await offering.plan({ name: 'Box', kind: 'goods' }, { lines: PER_HIVE });
  const extras = [
    {
      ...{ key: 'lid', name: 'Box: Per hive', currency: 'GBP', price: { scheme: 'flat', amount: '1.00' } },
      ...{ when: 'recurring', how: 'offered', min: 1, max: 1, byCustomer: false },
    },
  ];
  const host = await offering.plan({ name: 'Host', extras }, { lines: PER_HIVE }, { account: '4010 Watch' });
  const beside = [{ rateId: goods.rateId, quantity: 2 }];
  const nowhere = await offering.enrol(host.rateId, { customer: person(8), beside });
  expect(nowhere.body.errors).toMatchObject([{ pointer: '/place/address' }]);
  const place = { name: '', address: '1 Dyke Road', postcode: '', region: '', country: 'GB' };
  const id = await offering.enrolled(host.rateId, { customer: person(8), beside, place });
  const view = () =>
    offering.done<{ extras: { extra: { key: string; name: string } }[]; coming: { due: string }[] }>(
      'get',
      `/api/subscriptions/${id}`,
    );
  const [line] = (await view()).extras;
  expect(line?.extra.name).toBe('Box: Per hive');
  const alter = (key = '', quantity = 1) =>
    offering.ask('post', `/api/subscriptions/${id}/alter`, { kind: 'extra', key, quantity, from: 'now' });
  expect((await alter('lid')).body.errors).toMatchObject([{ pointer: '/key' }]);
  expect((await alter(line?.extra.key, 0)).status).toBeLessThan(300);
  expect((await view()).coming[0]?.due).toBe('540');
});

test('where it was agreed that no tax is charged, none comes back with a line whose rate fixes one', async () => {
  const fixed = (rate: string) => ({ lines: PER_HIVE, tax: { rate, mode: 'exclusive' } });
  const host = await offering.plan({ name: 'Fixed' }, fixed('20'));
  const other = await offering.plan({ name: 'Fixed too' }, fixed('5'));
  const id = await offering.enrolled(host.rateId, {
    ...{ customer: person(9), beside: [{ rateId: other.rateId }], own: { noTaxBecause: 'A school' } },
  });
  const view = () =>
    offering.done<{ extras: { extra: { key: string } }[]; coming: { due: string }[] }>(
      'get',
      `/api/subscriptions/${id}`,
    );
  expect((await view()).coming[0]?.due).toBe('900');
  const [line] = (await view()).extras;
  const more = { kind: 'extra', key: line?.extra.key, quantity: 2, from: 'now' };
  await offering.done('post', `/api/subscriptions/${id}/alter`, more);
  expect((await view()).coming[0]?.due).toBe('1350');
});

test('verify names an invoice whose lines stand on other accounts than theirs', async () => {
  const id = await offering.enrolled(watch.rateId, { beside: [{ rateId: jars.rateId, quantity: 1 }] });
  await world.turnTo('2027-02-14');
  const [invoice] = await invoices(id);
  const stands = (account: string) =>
    world.almanac.db.rows(
      `update invoices set lines = jsonb_set(lines, '{1,account}', to_jsonb($account::text)) where id = $id`,
      { account, id: invoice?.id ?? '' },
    );
  const broken = async () =>
    (await verify(world.almanac)).flatMap(({ breaches }) => breaches).filter((one) => one.includes('books'));
  expect(await broken()).toEqual([]);
  await stands('4010 Watch');
  expect(await broken()).toEqual([expect.stringContaining('is not in the books as it was issued')]);
  await stands('4020 Honey');
});
