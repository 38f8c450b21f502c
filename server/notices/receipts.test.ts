import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';

// Receipts go to all who want them: of every payment, of none, or of the next one alone, each for themselves.

let world: World;
let offering: Offering;
let rateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ rateId } = await offering.plan(
    { name: 'Yard' },
    { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '60.00' } }], interval: 'P1W' },
  ));
});
afterAll(() => world.end());

/** To whom receipts were sent, in their order. */
async function receiptsOf(customerId: string): Promise<string[]> {
  const letters = await world.almanac.db.rows<{ to_address: string }>(
    `select to_address from letters where customer_id = $customerId and event = 'receipt' order by id`,
    { customerId },
  );
  return letters.map(({ to_address }) => to_address);
}

async function somebody(): Promise<{ customerId: string; email: string }> {
  const id = await offering.enrolled(rateId);
  const { customerId, email } = await offering.done<{ customerId: string; email: string }>(
    'get',
    `/api/subscriptions/${id}`,
  );
  return { customerId, email };
}

const contact = { name: 'The treasurer', email: 'treasurer@post.example', letters: ['payments'] };

test('each wants their own: the customer once, the treasurer always, the accountant none', async () => {
  const { customerId, email } = await somebody();
  expect((await offering.changeCustomer(customerId, { receipts: 'once' })).status).toBe(200);
  const path = `/api/customers/${customerId}/contacts`;
  await offering.done('post', path, contact);
  await offering.done('post', path, {
    ...{ ...contact, name: 'The accountant', email: 'accountant@post.example' },
    ...{ receipts: 'never', receiptsWhy: 'Reads them in the books' },
  });
  await offering.done('post', path, {
    ...{ ...contact, name: 'The auditor', email: 'auditor@post.example', receipts: 'once' },
  });
  await world.turnTo(await offering.later(16));
  expect((await receiptsOf(customerId)).toSorted()).toEqual(
    [email, contact.email, 'auditor@post.example', contact.email, contact.email].toSorted(),
  );
  // Whoever had theirs gets none any more, and it is said why.
  expect(await offering.done('get', `/api/customers/${customerId}`)).toMatchObject({
    ...{ receipts: 'never', receiptsWhy: 'It was wanted once' },
  });
  const contacts = await offering.done<{ name: string; receipts: string }[]>('get', path);
  expect(contacts.map(({ name, receipts }) => [name, receipts])).toEqual([
    ['The accountant', 'never'],
    ['The auditor', 'never'],
    ['The treasurer', 'always'],
  ]);
});

test('they are on for everybody, and turned off with a reason alone', async () => {
  const { customerId, email } = await somebody();
  const refused = await offering.changeCustomer(customerId, { receipts: 'never' });
  expect([refused.status, refused.body.errors]).toEqual([
    422,
    [{ pointer: '/value/receiptsWhy', detail: 'Say why no receipts are sent.' }],
  ]);
  await world.turnTo(await offering.later(1));
  expect(await receiptsOf(customerId)).toEqual([email]);
  const off = { receipts: 'never', receiptsWhy: 'They asked for none' };
  expect((await offering.changeCustomer(customerId, off)).status).toBe(200);
  await world.turnTo(await offering.later(8));
  expect(await receiptsOf(customerId)).toEqual([email]);
  // Everything else is still written to them.
  const letters = await lettersWhere(world.almanac, 'l.customer_id = $customerId', { customerId });
  expect(letters.length).toBeGreaterThan(1);
  const none = await offering.ask('post', `/api/customers/${customerId}/contacts`, {
    ...contact,
    receipts: 'never',
  });
  expect([none.status, none.body.errors[0].pointer]).toEqual([422, '/receiptsWhy']);
});

test('who pays by hand is reminded once, some days before, of what is still open then', async () => {
  const { rateId: byHand } = await offering.plan(
    { name: 'Barn' },
    { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '60.00' } }], terms: 'P10D' },
    { methods: ['invoice'] },
  );
  const ids = [1, 2].map(() => offering.enrolled(byHand, { pays: 'invoice' }, false));
  const [open = '', paid = ''] = [await ids[0], await ids[1]];
  await world.turnTo(await offering.later(2));
  const { customerId, invoices } = await offering.done<{
    customerId: string;
    invoices: { id: string; dueOn: string }[];
  }>('get', `/api/subscriptions/${paid}`);
  await offering.done('post', `/api/customers/${customerId}/takings`, {
    ...{ means: 'cash', currency: 'GBP', amount: '6000', receivedOn: await offering.today() },
    ...{ invoices: [invoices[0]?.id], over: '0' },
  });
  await world.turnTo(await offering.later(7));
  const reminders = await world.almanac.db.rows<{ subscription: string; on: string; invoice: boolean }>(
    `select subscription_id::text as subscription, written_on as on, invoice_id is not null as invoice
     from letters where event = 'invoice reminder'`,
  );
  expect(reminders).toMatchObject([{ subscription: open, invoice: true }]);
  expect(String(reminders[0]?.on) < String(invoices[0]?.dueOn)).toBe(true);
});
