import { afterAll, afterEach, beforeAll, describe, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { CreditView } from '../customers/creditStatement.ts';
import type { WriteOffEffect } from '../invoices/giveUp.ts';
import type { InvoicePage } from '../invoices/messages.ts';
import type { TakingEffect } from '../takings/messages.ts';
import { verify } from '../verify/verify.ts';
import type { CorrectionEffect } from './messages.ts';

// What corrects invoices, seen through the door and reckoned by hand: 60.00 a month of which two lines carry 20 % of tax in
// them, and 12.00 carry none. After each test everything that must be true is.

let world: World;
let offering: Offering;
let rateId: string;
let byHandRate: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const taxed = { tax: { rate: '20', mode: 'inclusive' } };
  const line = (name: string, amount: string, tax: object | null) => ({
    ...{ name, price: { scheme: 'flat', amount } },
    ...(tax ?? {}),
  });
  ({ rateId } = await offering.plan(
    { name: 'Yard' },
    { ...taxed, lines: [line('Rent', '48.00', null), line('Water', '12.00', null)] },
  ));
  ({ rateId: byHandRate } = await offering.plan(
    { name: 'Barn' },
    { ...taxed, lines: [line('Barn', '60.00', null)], terms: 'P14D' },
    { methods: ['invoice', 'card'] },
  ));
});
afterEach(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});
afterAll(() => world.end());

const row = <Row extends object>(statement: string, bound = {}) =>
  world.almanac.db.row<Row>(statement, bound);

/** Somebody with an invoice: of a subscription that is charged by itself, or paid by hand. */
async function invoiced(byHand = false): Promise<{ id: string; customerId: string; subscriptionId: string }> {
  const subscriptionId = byHand
    ? await offering.enrolled(byHandRate, { pays: 'invoice' }, false)
    : await offering.enrolled(rateId);
  await world.turnTo(await offering.later(1));
  const found = await row<{ id: string; customerId: string }>(
    `select id::text, customer_id::text as "customerId" from invoices where subscription_id = $subscriptionId order by id desc limit 1`,
    { subscriptionId },
  );
  return { id: found?.id ?? '', customerId: found?.customerId ?? '', subscriptionId };
}

const read = (id: string) => offering.done<InvoicePage>('get', `/api/invoices/${id}`);
const effect = (id: string, asked: object) =>
  offering.done<CorrectionEffect>('post', `/api/invoices/${id}/credit-notes/effect`, asked);
const correct = (id: string, asked: object) =>
  offering.done<CorrectionEffect>('post', `/api/invoices/${id}/credit-notes`, asked);
const creditOf = async (customerId: string) =>
  (await offering.done<CreditView[]>('get', `/api/customers/${customerId}/credits`))[0]?.credit ?? '0';

const all = (reason: string) => ({ what: { kind: 'all' }, reason });
const some = (amount: string, reason = 'A broken pump') => ({ what: { kind: 'amount', amount }, reason });
const lines = (...of: [number, string][]) => ({
  what: { kind: 'lines', lines: of.map(([line, amount]) => ({ line, amount })) },
  reason: 'No water',
});

describe('a credit note', () => {
  test('of a line of a paid invoice gives its tax back with it, and is used on the next due', async () => {
    const { id, customerId, subscriptionId } = await invoiced();
    expect(await read(id)).toMatchObject({ state: 'paid', total: '6000', tax: '1000', left: '6000' });
    const shown = await effect(id, lines([1, '1200']));
    expect(shown).toMatchObject({
      ...{ lines: [{ name: 'Water', amount: '1200' }], net: '1000', tax: '200', total: '1200' },
      ...{ setOff: '0', toCredit: '1200', owed: '0', withdraws: false, number: null },
      books: [
        { account: 'Sales', amount: '1000' },
        { account: 'Tax', amount: '200' },
        { account: 'Credit of customers', amount: '-1200' },
      ],
    });
    const { number, ...done } = await correct(id, lines([1, '1200']));
    expect({ ...done, id: null, number: null }).toEqual(shown);
    expect(await creditOf(customerId)).toBe('1200');
    const [letter] = await lettersWhere(
      world.almanac,
      `l.customer_id = $customerId and l.event = 'credit note'`,
      {
        customerId,
      },
    );
    expect(letter?.plain).toContain('£12.00 is your credit: the next due uses it first.');
    expect(letter?.subject).toContain(number ?? 'no number');
    // The month after, what is charged is less by what was given back.
    await world.turnTo(await offering.later(31));
    const next = await row<Record<string, string>>(
      `select i.total::text, i.credit_used::text as credit, i.collected::text, i.state,
         (select a.amount::text from attempts a where a.invoice_id = i.id) as charged
       from invoices i where subscription_id = $subscriptionId order by id desc limit 1`,
      { subscriptionId },
    );
    expect(next).toEqual({
      total: '6000',
      credit: '1200',
      collected: '4800',
      state: 'paid',
      charged: '4800',
    });
    expect(await creditOf(customerId)).toBe('0');
  });

  test('is for all subscriptions of a customer: the one that is due first uses it', async () => {
    const { id, customerId } = await invoiced();
    await correct(id, some('700'));
    const other = await offering.done<{ id: string }>('post', '/api/subscriptions', {
      ...{
        customer: { id: customerId },
        rateId: byHandRate,
        starts: await offering.today(),
        pays: 'invoice',
      },
    });
    await world.turnTo(await offering.later(1));
    const used = await row(
      'select credit_used::text as credit from invoices where subscription_id = $id',
      other,
    );
    expect(used).toEqual({ credit: '700' });
  });

  test('in parts comes to exactly what was invoiced, and no unit more is given', async () => {
    const { id, customerId } = await invoiced();
    for (const amount of ['1999', '1', '2500']) await correct(id, some(amount));
    const refused = await offering.ask('post', `/api/invoices/${id}/credit-notes`, some('1501'));
    expect([refused.status, refused.body.errors]).toEqual([
      422,
      [{ pointer: '/what/amount', detail: 'At most £15.00 of it is left.' }],
    ]);
    await correct(id, all('The rest as well'));
    expect(await creditOf(customerId)).toBe('6000');
    expect(
      await row(
        'select sum(net)::text as net, sum(tax)::text as tax from credit_notes where invoice_id = $id',
        {
          id,
        },
      ),
    ).toEqual({ net: '5000', tax: '1000' });
    const more = await offering.ask('post', `/api/invoices/${id}/credit-notes`, all('Once more'));
    expect(more.status).toBe(409);
  });

  test('of an unpaid invoice takes off what is owed first, and closes its case where nothing is left', async () => {
    const token = 'card-without-money';
    await world.moveCards([{ token, behaviour: { code: '51' } }]);
    const subscriptionId = await offering.enrolled(rateId, { cardToken: token }, false);
    await world.turnTo(await offering.later(2));
    const found = await row<{ id: string; caseId: string }>(
      `select id::text, case_id::text as "caseId" from invoices where subscription_id = $subscriptionId`,
      { subscriptionId },
    );
    const { id = '' } = found ?? {};
    expect(await correct(id, some('2000'))).toMatchObject({
      ...{ setOff: '2000', toCredit: '0', owed: '4000', closesCase: false },
    });
    expect(await read(id)).toMatchObject({ state: 'overdue', owed: '4000', credited: '2000', left: '4000' });
    const shown = await effect(id, some('4000'));
    expect(shown).toMatchObject({ setOff: '4000', owed: '0', closesCase: true });
    await correct(id, some('4000'));
    expect(
      await row('select state from recovery_cases where id = $caseId', { caseId: found?.caseId }),
    ).toEqual({
      state: 'recovered',
    });
    expect(
      await row('select state from subscriptions where id = $subscriptionId', { subscriptionId }),
    ).toEqual({ state: 'active' });
    expect((await read(id)).state).toBe('withdrawn');
  });

  test('of an unpaid invoice as a whole withdraws it, and a month that was withdrawn is not invoiced again', async () => {
    const { id, subscriptionId } = await invoiced(true);
    expect(await read(id)).toMatchObject({ state: 'issued', owed: '6000', method: 'by hand' });
    expect(await effect(id, all('Agreed by telephone'))).toMatchObject({ withdraws: true, toCredit: '0' });
    await correct(id, all('Agreed by telephone'));
    expect(await read(id)).toMatchObject({
      ...{ state: 'withdrawn', owed: '0' },
      creditNotes: [{ kind: 'withdrawal', total: '6000', reason: 'Agreed by telephone' }],
    });
    await world.turnTo(await offering.later(10));
    expect(await offering.invoiced(subscriptionId)).toHaveLength(1);
  });

  test('has numbers without a gap in a series of their own, however many are issued at once', async () => {
    const ids = [await invoiced(), await invoiced(), await invoiced()].map(({ id }) => id);
    const before = await row<{ n: string }>('select max(number)::text as n from credit_notes');
    const asked = [...ids, ...ids].map((id) =>
      offering.ask('post', `/api/invoices/${id}/credit-notes`, some('3500')),
    );
    const statuses = (await Promise.all(asked)).map(({ status }) => status);
    // Of each, one of the two is more than is left.
    expect(statuses.toSorted()).toEqual([201, 201, 201, 422, 422, 422]);
    const numbers = await world.almanac.db.rows<{ n: string }>(
      'select number::text as n from credit_notes where number > $last order by number',
      { last: before?.n ?? '0' },
    );
    expect(numbers.map(({ n }) => Number(n) - Number(before?.n ?? 0))).toEqual([1, 2, 3]);
  });

  test('is found by its number and by that of what it corrects, and its list as a file says the same', async () => {
    const { id, customerId } = await invoiced(true);
    const { number } = await correct(id, { what: { kind: 'amount', amount: '1234' }, reason: 'Found again' });
    const { number: invoice } = await read(id);
    interface Found {
      readonly total: number;
      readonly rows: readonly { readonly number: string; readonly reason: string }[];
    }
    const found = (asked: string) => offering.done<Found>('get', `/api/credit-notes?${asked}`);
    const digits = /\d+$/.exec(number ?? '')?.[0];
    for (const asked of [
      `search=${number}`,
      `search=${digits}`,
      `search=${invoice}`,
      `customerId=${customerId}`,
    ])
      expect((await found(asked)).rows, asked).toContainEqual(
        expect.objectContaining({
          number,
          kind: 'correction',
          invoice,
          setOff: '1234',
          reason: 'Found again',
        }),
      );
    expect((await found(`search=XX-${digits}`)).rows).toEqual([]);
    expect((await found(`customerId=${customerId}&state=withdrawal`)).total).toBe(0);
    const csv = await offering.ask('get', `/api/credit-notes.csv?customerId=${customerId}`);
    expect(csv.text).toContain(`${number},correction,`);
    expect(csv.text).toContain('12.34');
    // Its statement of account has it too, and comes to what is owed.
    const account = await offering.ask('get', `/api/customers/${customerId}/account.csv?from=2027-01-05`);
    const moved = account.text.trim().split('\r\n');
    expect(moved[1]).toContain('Owed before');
    expect(moved.at(-1)).toMatch(new RegExp(`,Credit note,${number},-12.34,47.66,GBP$`));
    expect((await offering.ask('get', `/api/customers/${customerId}/account?from=2027-13-01`)).status).toBe(
      422,
    );
    expect((await offering.ask('get', '/api/customers/999999/account.pdf')).status).toBe(404);
  });

  test('is refused beside the field that is wrong, and nothing is stored', async () => {
    const { id } = await invoiced();
    const counted = () => row('select count(*)::int as n from credit_notes');
    const before = await counted();
    for (const [asked, pointer] of [
      [some('6001'), '/what/amount'],
      [some('0'), '/what/amount'],
      [{ ...some('5'), reason: ' ' }, '/reason'],
      [{ ...some('5'), reason: 'x'.repeat(10_000) }, '/reason'],
      [lines([0, '4801']), '/what/lines/0/amount'],
      [lines([0, '100'], [7, '1']), '/what/lines/1/line'],
      [lines([0, '-5']), '/what/lines/0/amount'],
      [lines([0, '0']), '/what/lines'],
    ] as const) {
      const answer = await offering.ask('post', `/api/invoices/${id}/credit-notes`, asked);
      expect([answer.status, answer.body.errors?.[0]?.pointer], JSON.stringify(asked)).toEqual([
        422,
        pointer,
      ]);
    }
    expect(await counted()).toEqual(before);
  });
});

describe('money by hand', () => {
  const take = (customerId: string, asked: object) =>
    offering.done<TakingEffect>('post', `/api/customers/${customerId}/takings`, asked);
  const shownOf = (customerId: string, asked: object) =>
    offering.done<TakingEffect>('post', `/api/customers/${customerId}/takings/effect`, asked);
  const transfer = async (amount: string, invoices: string[], more: object = {}) => ({
    ...{ means: 'transfer', currency: 'GBP', amount, receivedOn: await offering.today(), invoices },
    ...{ reference: 'FT 889', over: '0', ...more },
  });

  test('pays several invoices in their order, and what is over is named before it is the customer’s credit', async () => {
    const { id, customerId, subscriptionId } = await invoiced(true);
    await world.turnTo(await offering.later(32));
    const second = await row<{ id: string }>(
      'select id::text from invoices where subscription_id = $subscriptionId and id <> $id',
      { subscriptionId, id },
    );
    const invoices = [id, second?.id ?? ''];
    const under = await shownOf(customerId, await transfer('9000', invoices));
    expect(under.paid.map(({ paid, left }) => [paid, left])).toEqual([
      ['6000', '0'],
      ['3000', '3000'],
    ]);
    const asked = await transfer('13000', invoices);
    expect(await shownOf(customerId, asked)).toMatchObject({
      ...{ over: '1000', paid: [{ left: '0' }, { left: '0' }] },
      books: [
        { account: 'Bank', amount: '13000' },
        { account: 'Receivables', amount: '-12000' },
        { account: 'Credit of customers', amount: '-1000' },
      ],
    });
    // Who was shown otherwise is told so, and nothing is booked.
    const refused = await offering.ask('post', `/api/customers/${customerId}/takings`, asked);
    expect([refused.status, refused.body.errors[0].pointer]).toEqual([409, '/over']);
    expect(await creditOf(customerId)).toBe('0');
    await take(customerId, { ...asked, over: '1000' });
    expect(await creditOf(customerId)).toBe('1000');
    for (const one of invoices) expect((await read(one)).state).toBe('paid');
    const [receipt] = await lettersWhere(
      world.almanac,
      `l.customer_id = $customerId and l.event = 'receipt'`,
      { customerId },
    );
    expect(receipt?.plain).toContain('£60.00 reached us on');
    expect(receipt?.plain).toContain('by bank transfer');
  });

  test('is refused beside its field: too late, too early, of somebody else, of another currency, for nothing', async () => {
    const { id, customerId } = await invoiced(true);
    const other = await invoiced(true);
    const path = `/api/customers/${customerId}/takings`;
    for (const [asked, pointer] of [
      [await transfer('6000', [id], { receivedOn: await offering.later(1) }), '/receivedOn'],
      [await transfer('6000', [id], { receivedOn: await offering.later(-367) }), '/receivedOn'],
      [await transfer('6000', [other.id]), '/invoices/0'],
      [await transfer('6000', [id, id]), '/invoices/1'],
      [await transfer('6000', [id], { currency: 'EUR' }), '/invoices/0'],
      [await transfer('-1', [id]), '/amount'],
      [await transfer('6000', [id], { means: 'barter' }), '/means'],
      [await transfer('6000', [id], { note: 'x'.repeat(501) }), '/note'],
    ] as const) {
      const answer = await offering.ask('post', path, asked);
      expect(answer.body.errors?.[0]?.pointer, JSON.stringify(asked)).toBe(pointer);
    }
    expect(await read(id)).toMatchObject({ state: 'issued', owed: '6000' });
  });

  test('twice at once pays once', async () => {
    const { id, customerId } = await invoiced(true);
    const asked = await transfer('6000', [id]);
    const answers = await Promise.all(
      [1, 2].map(() => offering.ask('post', `/api/customers/${customerId}/takings`, asked)),
    );
    expect(answers.map(({ status }) => status).toSorted()).toEqual([201, 409]);
    expect((await read(id)).collected).toBe('6000');
  });

  test('for an invoice that was written off is recovered, in parts too', async () => {
    const { id, customerId } = await invoiced(true);
    const shown = await offering.done<WriteOffEffect>('post', `/api/invoices/${id}/write-off/effect`);
    expect(shown).toMatchObject({
      owed: '6000',
      books: [
        { account: 'Written off', amount: '6000' },
        { account: 'Receivables', amount: '-6000' },
      ],
    });
    await offering.done('post', `/api/invoices/${id}/write-off`, { reason: 'Moved away' });
    expect((await read(id)).state).toBe('written off');
    for (const path of ['write-off', 'credit-notes'])
      expect(
        (await offering.ask('post', `/api/invoices/${id}/${path}`, all('Again'))).status,
      ).toBeGreaterThan(400);
    const part = await take(customerId, await transfer('2500', [id]));
    expect(part.paid).toMatchObject([{ recovered: true, left: '3500' }]);
    expect(await read(id)).toMatchObject({ state: 'written off', owed: '3500', collected: '2500' });
    await take(customerId, await transfer('3500', [id], { means: 'cash' }));
    expect(await read(id)).toMatchObject({ state: 'paid', owed: '0' });
    const held = await row(
      `select coalesce(sum(l.amount), 0)::text as given from journal_lines l join accounts a on a.id = l.account_id
       where l.invoice_id = $id and a.kind = 'written off'`,
      { id },
    );
    expect(held).toEqual({ given: '0' });
  });

  test('what is credited pays for an open invoice when it is asked to', async () => {
    const { id, customerId } = await invoiced(true);
    await take(customerId, await transfer('1500', [], { over: '1500' }));
    expect(await offering.done('post', `/api/invoices/${id}/credit`)).toEqual({ used: '1500', owed: '4500' });
    expect((await offering.ask('post', `/api/invoices/${id}/credit`)).status).toBe(409);
    expect(await read(id)).toMatchObject({ state: 'part-paid', creditUsed: '1500' });
  });
});
