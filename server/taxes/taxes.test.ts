import type { Express } from 'express';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let app: Express;
let ask: ReturnType<typeof asking>;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  ask = asking(app, (await signedIn(world, 'owner')).cookie);
});
afterAll(() => world.end());

const rate = (facts: object) => ({
  percent: '20',
  mode: 'exclusive',
  country: null,
  region: '',
  validFrom: '2020-01-01',
  validTo: null,
  ...facts,
});
const settle = async (section: string, to: object) => {
  const { version, value } = (await ask('get', `/api/setup/${section}`)).body;
  return ask('put', `/api/setup/${section}`, { version, value: { ...value, ...to } });
};
const totals = async () =>
  (
    await world.almanac.db.rows<{ said: string }>(
      `select c.name || ' ' || i.period_from || ' ' || i.total as said
       from invoices i join customers c on c.id = i.customer_id order by i.id`,
    )
  ).map(({ said }) => said);
const sound = async () =>
  (await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0).map(({ breaches }) => breaches);
let taxId = '';

test('a default tax counts for those enrolled after it; those before keep what they agreed to', async () => {
  await world.enrol([{}]); // Person 0, before any tax
  const made = await ask('post', '/api/taxes', { value: { name: 'VAT', rates: [rate({})] } });
  taxId = made.body.id;
  expect((await ask('post', '/api/taxes', { value: { name: 'vat', rates: [rate({})] } })).status).toBe(422);
  expect((await settle('taxing', { defaultTax: taxId })).status).toBe(200);
  await world.enrol([{}, {}]);
  await world.almanac.db.rows(`update customers set name = 'Taxed' where id = 2`);
  const exempt = (await ask('get', '/api/customers/3')).body;
  const { id: _id, reference: _reference, version, createdOn: _createdOn, ...value } = exempt;
  const edit = { version, value: { ...value, name: 'Exempt', taxExempt: 'a charity, no. 17' } };
  expect((await ask('put', '/api/customers/3', edit)).status).toBe(200);
  expect((await ask('put', '/api/customers/3', edit)).status).toBe(409);
  await world.turnTo('2027-01-05');
  expect(await totals()).toEqual([
    'Person 0 2027-01-04 1000',
    'Taxed 2027-01-04 1200',
    'Exempt 2027-01-04 1000',
  ]);
});

test('a rate that was in force is ended, not changed; a new one counts from its day and touches nothing issued', async () => {
  const [tax] = (await ask('get', '/api/taxes')).body;
  const change = (rates: object[]) =>
    ask('put', `/api/taxes/${taxId}`, { version: tax.version, value: { name: 'VAT', rates } });
  expect((await change([rate({ percent: '25' })])).body.errors[0].pointer).toBe('/value/rates');
  expect((await change([rate({ validTo: '2026-12-01' })])).status).toBe(422);
  expect(
    (await change([rate({}), rate({ percent: '25', validFrom: '2027-02-01' })])).body.errors[0].pointer,
  ).toBe('/value/rates/1/validFrom');
  const good = [rate({ validTo: '2027-02-01' }), rate({ percent: '25', validFrom: '2027-02-01' })];
  expect((await change(good)).status).toBe(200);
  expect((await change(good)).status, 'an edit of an old version').toBe(409);
  await world.turnTo('2027-02-05');
  expect((await totals()).slice(3)).toEqual([
    'Person 0 2027-02-04 1000',
    'Taxed 2027-02-04 1250',
    'Exempt 2027-02-04 1000',
  ]);
  expect((await totals())[1]).toBe('Taxed 2027-01-04 1200');
  expect(await sound()).toEqual([]);
  expect((await ask('delete', `/api/taxes/${taxId}`)).status, 'the default stays').toBe(409);
});

test('whoever moves pays the tax of the place from then on, and the books still add up', async () => {
  const [tax] = (await ask('get', '/api/taxes')).body;
  const rates = [...tax.rates, rate({ percent: '23', country: 'IE', validFrom: '2027-02-05' })];
  expect(
    (await ask('put', `/api/taxes/${taxId}`, { version: tax.version, value: { name: 'VAT', rates } })).status,
  ).toBe(200);
  const {
    id: _id,
    reference: _r,
    version,
    createdOn: _c,
    ...value
  } = (await ask('get', '/api/customers/2')).body;
  await ask('put', '/api/customers/2', { version, value: { ...value, country: 'IE' } });
  await world.turnTo('2027-03-05');
  expect((await totals()).slice(6)[1]).toBe('Taxed 2027-03-04 1230');
  expect(await sound()).toEqual([]);
});

test('holidays come from an iCalendar file, after a look at what it would add; due dates keep to them', async () => {
  const event = (facts: string) =>
    `BEGIN:VEVENT\r\nUID:${facts.length}@x\r\nDTSTAMP:20270101T000000Z\r\n${facts}\r\nEND:VEVENT\r\n`;
  const text = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\n${event(
    'DTSTART;VALUE=DATE:20260405\r\nRRULE:FREQ=YEARLY\r\nSUMMARY:Spring Day 🌱',
  )}${event('DTSTART;VALUE=DATE:20270601\r\nDTEND;VALUE=DATE:20270603\r\nSUMMARY:Two Days')}${event(
    'DTSTART:20270701T100000Z\r\nSUMMARY:A meeting',
  )}END:VCALENDAR\r\n`;
  const read = (dryRun: boolean, given = text) =>
    ask('post', '/api/holidays/import', { country: '', text: given, dryRun });
  const would = (await read(true)).body;
  expect(would.added.map(({ date }: { date: string }) => date).slice(0, 4)).toEqual([
    '2026-04-05',
    '2027-04-05',
    '2027-06-01',
    '2027-06-02',
  ]);
  expect(would.passedOver).toEqual(['A meeting: has a time of day']);
  expect((await ask('get', '/api/holidays')).body).toEqual([]);
  expect((await read(false)).body.added).toEqual(would.added);
  expect((await read(false)).body).toMatchObject({ added: [], known: would.added.length });
  expect((await read(true, 'BEGIN:NOTHING')).body.errors[0].pointer).toBe('/text');

  const { value } = (await ask('get', '/api/setup/calendar')).body;
  expect((await settle('calendar', { shifts: { ...value.shifts, card: 'next' } })).status).toBe(200);
  await world.enrol([{}]); // starts on Fri 5 Mar 2027: the next due day is 5 Apr, a holiday
  await world.turnTo('2027-04-10');
  const due = await world.almanac.db.rows<{ due_on: string }>(
    'select due_on from invoices where customer_id = 4 order by id',
  );
  expect(due.map(({ due_on }) => due_on)).toEqual(['2027-03-05', '2027-04-06']);
  const others = await world.almanac.db.row<{ due_on: string }>(
    `select due_on from invoices where customer_id = 2 and period_from = '2027-04-04'`,
  );
  expect(others?.due_on, 'agreed before, on a Sunday').toBe('2027-04-04');
});
