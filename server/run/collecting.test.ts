import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
const letters = (id: string) => lettersWhere(world.almanac, 'l.subscription_id = $id', { id });
const events = async (id: string) => (await letters(id)).map(({ event, on }) => `${on} ${event}`);
const state = async (id: string) =>
  (await offering.done<{ state: string }>('get', `/api/subscriptions/${id}`)).state;

/** Gives a card on the customer's own page, by the newest link. */
async function giveCard(subscriptionId: string, token: string) {
  await world.moveCards([{ token, behaviour: {} }]);
  const link = await CustomerLink.findOne({
    where: { subscriptionId },
    order: [['id', 'desc']],
    rejectOnEmpty: true,
  });
  return offering.stranger('post', `/api/own/${linkToken(world.almanac, link.id, 'own')}/card`, { token });
}

test('what is paid by hand is invoiced and asked for, never charged by itself, and becomes a case when it is late', async () => {
  const byHand = await offering.plan(
    { name: 'Hand' },
    { lines, terms: 'P7D' },
    { methods: ['card', 'invoice'], account: '4010 Rows' },
  );
  expect((await offering.enrol(byHand.rateId, {}, false)).body.errors[0].pointer).toBe('/cardToken');
  const paid = await offering.enrolled(byHand.rateId, { pays: 'invoice' }, false);
  const late = await offering.enrolled(byHand.rateId, { pays: 'invoice' }, false);
  await world.turnTo('2027-01-06');
  expect(await events(paid)).toEqual(['2027-01-04 invoice to pay', '2027-01-04 started']);
  expect((await letters(paid))[1]?.plain).toContain('You pay by hand: we send you an invoice.');
  const charged = await giveCard(paid, 'card-of-who-pays-by-hand');
  expect(charged.body.charged).toMatchObject([{ outcome: 'collected' }]);
  await world.turnTo('2027-01-15');
  expect(await state(late)).toBe('active');
  await world.turnTo('2027-01-16');
  expect(await state(late)).toBe('overdue');
  expect((await events(late)).slice(2)).toEqual([
    '2027-01-08 invoice reminder',
    '2027-01-15 invoice overdue',
  ]);
  await giveCard(late, 'card-of-who-is-late');
  expect(await state(late)).toBe('active');
  // There is a card now, and still nothing is charged by itself.
  await world.turnTo('2027-02-12');
  expect(await offering.invoiced(paid)).toEqual(['2027-01-04 1200', '2027-02-04 1200']);
  expect((await world.chargesAtGateway()).length).toBe(2);
  const [row] = await world.almanac.db.rows<{ account: string }>('select distinct account from invoices');
  expect(row?.account).toBe('4010 Rows');
  await giveCard(paid, 'card-of-who-pays-by-hand');
  await giveCard(late, 'card-of-who-is-late');
});

test('a trial without a card is told of, then ends, rests until there is one, or is invoiced', async () => {
  const trial = { lines, trial: { length: 'P10D' } };
  const rates = {
    end: (await offering.plan({ name: 'Ends' }, trial, { withoutMethod: 'end' })).rateId,
    pause: (await offering.plan({ name: 'Rests' }, trial, { withoutMethod: 'pause' })).rateId,
    invoice: (await offering.plan({ name: 'Invoiced' }, trial, { withoutMethod: 'invoice' })).rateId,
    needed: (await offering.plan({ name: 'Needs' }, trial)).rateId,
  };
  expect((await offering.enrol(rates.needed, {}, false)).body.errors[0].pointer).toBe('/cardToken');
  // Enrolled on 12 February, tried until the 22nd.
  const [end, pause, invoice, mended] = [
    await offering.enrolled(rates.end, {}, false),
    await offering.enrolled(rates.pause, {}, false),
    await offering.enrolled(rates.invoice, {}, false),
    await offering.enrolled(rates.end, {}, false),
  ];
  await world.turnTo('2027-02-17');
  expect((await events(end)).slice(1)).toEqual(['2027-02-15 trial without a card']);
  await giveCard(mended, 'card-given-in-the-trial');
  await world.turnTo('2027-02-24');
  expect([await state(end), await state(pause), await state(invoice), await state(mended)]).toEqual([
    'ended',
    'paused',
    'active',
    'active',
  ]);
  expect(await offering.invoiced(end)).toEqual([]);
  expect(await offering.invoiced(invoice)).toEqual(['2027-02-22 1200']);
  expect(await offering.invoiced(mended)).toEqual(['2027-02-22 1200']);
  await world.turnTo('2027-03-15');
  expect(await offering.invoiced(pause)).toEqual([]);
  await giveCard(pause, 'card-given-after-the-trial');
  await world.turnTo('2027-04-20');
  expect([await state(pause), await offering.invoiced(pause)]).toEqual([
    'active',
    ['2027-03-15 1200', '2027-04-15 1200'],
  ]);
  await giveCard(invoice, 'card-of-the-invoiced');
});

test('a renewal is told of so many days before, once; what recurs may begin later than what is paid once', async () => {
  const { rateId } = await offering.plan(
    { name: 'Told' },
    { lines, once: [{ name: 'Joining', amount: '30.00' }] },
    { noticeDays: 5, recurringStart: { after: 'P2M' } },
  );
  await world.turnTo('2027-04-20');
  const id = await offering.enrolled(rateId);
  await world.turnTo('2027-08-01');
  expect(await offering.invoiced(id)).toEqual(['2027-04-20 3000', '2027-06-20 1200', '2027-07-20 1200']);
  expect((await events(id)).filter((said) => said.endsWith('renewal coming'))).toEqual([
    '2027-07-15 renewal coming',
  ]);
  expect((await letters(id)).find(({ event }) => event === 'renewal coming')?.plain).toContain(
    'It is charged to your card',
  );
});

test('a rate takes the cards of the gateways it names, and the ways of payment it accepts', async () => {
  const [account] = await world.almanac.gateways.connected();
  const named = await offering.plan({ name: 'Named' }, { lines }, { gateways: [account?.id] });
  const other = await offering.plan(
    { name: 'Other' },
    { lines },
    { gateways: [await handOver(offering.ask, 'cards-abroad')] },
  );
  expect((await offering.enrol(named.rateId)).status).toBe(201);
  expect((await offering.enrol(other.rateId)).body.errors[0].detail).toBe(
    'No gateway that this rate takes cards of is connected and charges GBP.',
  );
  expect((await offering.enrol(named.rateId, { pays: 'invoice' })).body.errors[0].pointer).toBe('/pays');
});

test('one invoice stands for all instalments, and each due is charged on its day, retried and recovered by itself', async () => {
  const kit = {
    lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '100.00' } }],
    ends: { after: 3 },
    setup: { amount: '5.00' },
    tax: { rate: '20', mode: 'exclusive' },
  };
  const { rateId } = await offering.plan({ name: 'Kit' }, kit, { invoicing: 'whole' });
  const start = await offering.today();
  const good = await offering.enrolled(rateId);
  const token = 'card-that-has-no-money-from-september';
  await world.moveCards([{ token, behaviour: { code: '51', from: '2027-08-20' } }]);
  const late = await offering.enrolled(rateId, { cardToken: token }, false);
  await world.turnTo('2027-08-05');
  expect(await offering.invoiced(good)).toEqual([`${start} 12601`]);
  const page = await offering.done<{ invoices: { state: string; dues: object[] }[]; coming: object[] }>(
    'get',
    `/api/subscriptions/${good}`,
  );
  expect(page.invoices[0]).toMatchObject({
    state: 'part-paid',
    dues: [
      { dueOn: start, amount: '4601', owed: '0' },
      { dueOn: '2027-09-01', amount: '4000', owed: '4000' },
      { dueOn: '2027-10-01', amount: '4000', owed: '4000' },
    ],
  });
  expect(page.coming).toMatchObject([{ dueOn: '2027-09-01', due: '4000' }, { dueOn: '2027-10-01' }]);
  await world.turnTo('2027-09-02');
  expect([await state(good), await state(late)]).toEqual(['active', 'overdue']);
  const owed = await offering.done<{ owed: string }[]>(
    'get',
    `/api/customers/${await customerOf(late)}/debts`,
  );
  expect(owed).toMatchObject([{ owed: '4000' }]);
  await giveCard(late, 'card-that-mends-it');
  expect(await state(late)).toBe('active');
  await world.turnTo('2027-11-02');
  expect([await state(good), await state(late)]).toEqual(['ended', 'ended']);
  const paid = await world.almanac.db.rows<{ state: string; n: number }>(
    `select i.state, count(p.id)::int as n from invoices i join payments p on p.invoice_id = i.id
     where i.subscription_id = any($ids::bigint[]) group by i.id`,
    { ids: [good, late] },
  );
  expect(paid).toEqual([
    { state: 'paid', n: 3 },
    { state: 'paid', n: 3 },
  ]);
});

test('who pays a whole invoice by hand is told of its parts, and of each later one some days before it is due', async () => {
  const kit = {
    lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '100.00' } }],
    ends: { after: 3 },
    terms: 'P30D',
  };
  const { rateId } = await offering.plan({ name: 'By hand' }, kit, {
    invoicing: 'whole',
    methods: ['invoice'],
  });
  await world.turnTo('2028-01-05');
  const id = await offering.enrolled(rateId, { pays: 'invoice' }, false);
  await world.turnTo('2028-02-01');
  await giveCard(id, 'card-of-who-pays-parts');
  await world.turnTo('2028-02-29');
  const told = async () => (await letters(id)).map(({ event, on }) => `${on} ${event}`);
  expect(await told()).toEqual([
    '2028-01-05 invoice to pay',
    '2028-01-05 started',
    '2028-02-01 mandate confirmed',
    '2028-02-01 receipt',
    '2028-02-28 part due',
  ]);
  const [first, , , , part] = await letters(id);
  expect(first?.subject).toContain('£100.00 in parts, the first by Fri 4 Feb 2028');
  expect(first?.plain).toContain(
    'It is paid in 3 parts: £33.34 by Fri 4 Feb 2028, £33.33 by Mon 6 Mar 2028, £33.33',
  );
  expect(part?.plain).toMatch(
    /part 2 of 3 is due on Mon 6 Mar 2028: £33\.33\.\s+Nothing is charged by itself/,
  );
  await world.turnTo('2028-03-05');
  expect((await told()).filter((said) => said.endsWith('part due'))).toHaveLength(1);
});

const customerOf = async (id: string) =>
  (await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`)).customerId;
