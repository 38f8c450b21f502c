import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { sayFigure } from '../../core/words/amount.ts';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';
import { breachesOf, ReadDocument } from '../../testing/en16931/rules.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { pdfText } from '../../testing/pdfText.ts';
import { World } from '../../testing/world.ts';
import type { AccountView } from '../customers/accountMessages.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { pdfOf, readDocument } from '../documents/documentOf.ts';
import { ublOf } from '../documents/ubl.ts';
import { importFiles } from '../imports/importFiles.ts';
import { verify } from '../verify/verify.ts';

/*
 * A quarter of the sample business, by a script: every way of paying by card, by debit and by hand, and every correction, each on
 * its day and as staff and customers do it. At its end the books are right, every statement of account comes out, and every
 * document is read back by readers of other hands, to the cent.
 */

let world: World;
let offering: Offering;
const rateOf = new Map<string, string>();
let wholePlot: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const text = readFileSync('demo/plans.json', 'utf8');
  expect(
    (await importFiles(world.almanac, [{ name: 'plans.json', text }], { dryRun: false })).problems,
  ).toEqual([]);
  const rates = await world.almanac.db.rows<{ key: string; id: string }>(
    `select p.key || ' ' || r.key as key, r.id::text from rates r join plans p on p.id = r.plan_id`,
  );
  for (const { key, id } of rates) rateOf.set(key, id);
  const variant = await world.almanac.db.row<{ id: string }>(
    `select id::text from variants where name = 'Whole plot'`,
  );
  wholePlot = variant?.id ?? '';
  const business = await offering.done<{ version: number; value: object }>('get', '/api/setup/business');
  await offering.done('put', '/api/setup/business', {
    version: business.version,
    value: { ...business.value, legalName: 'Fenmarsh Hives Ltd', taxNumber: 'GB123456789', country: 'GB' },
  });
  await handOver(offering.ask, 'debit-main');
});
afterAll(() => world.end());

const rows = <Row extends object>(statement: string, bound = {}) =>
  world.almanac.db.rows<Row>(statement, bound);

interface Person {
  readonly id: string;
  readonly customerId: string;
}
let cards = 0;
/** A card at the gateway that behaves so. */
async function card(behaviour: Behaviour = {}): Promise<string> {
  const token = `card-of-the-quarter-${(cards += 1)}`;
  await world.moveCards([{ token, behaviour }]);
  return token;
}
async function enrol(rate: string, more: object): Promise<Person> {
  const plot = rate.startsWith('apiary') ? { variantId: wholePlot } : {};
  const id = await offering.enrolled(rateOf.get(rate) ?? '', { ...plot, ...more }, false);
  const { customerId } = await offering.done<Person>('get', `/api/subscriptions/${id}`);
  return { id, customerId };
}
const byCard = async (rate: string, behaviour: Behaviour = {}) =>
  enrol(rate, { cardToken: await card(behaviour) });
const to = (date: string) => world.turnTo(date);

interface Open {
  readonly id: string;
  readonly owed: string;
  readonly total: string;
  readonly currency: string;
}
/** What is open of somebody, oldest first. */
const openOf = ({ customerId }: Person) =>
  rows<Open>(
    `select id::text, owed::text, total::text, currency from invoices
     where customer_id = $customerId and owed > 0 and state in ('issued', 'part-paid', 'written off') order by id`,
    { customerId },
  );
const firstOpen = async (person: Person): Promise<Open> => {
  const [first] = await openOf(person);
  if (!first) throw new Error('Nothing is open.');
  return first;
};
async function pays(person: Person, means: string, amount: string, invoices: readonly Open[]): Promise<void> {
  const owed = invoices.reduce((sum, one) => sum + BigInt(one.owed), 0n);
  const over = BigInt(amount) > owed ? BigInt(amount) - owed : 0n;
  await offering.done('post', `/api/customers/${person.customerId}/takings`, {
    ...{ means, currency: invoices[0]?.currency, amount, receivedOn: await offering.today() },
    ...{ over: over.toString(), invoices: invoices.map(({ id }) => id) },
  });
}
const correct = (invoice: Open, what: object, reason: string) =>
  offering.done('post', `/api/invoices/${invoice.id}/credit-notes`, { what, reason });
/** The way to somebody's own page. */
async function ownPage({ customerId }: Person): Promise<string> {
  const link = await CustomerLink.findOne({
    where: { customerId },
    order: [['id', 'desc']],
    rejectOnEmpty: true,
  });
  return `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
}
/** Does something at a page of the gateway's, and comes back. */
async function atBank(path: string, kind: 'transfer' | 'confirmation', what: string): Promise<unknown> {
  const { debts } = (await offering.stranger('get', path)).body as { debts: { id: string }[] };
  const { body } = await offering.stranger('post', `${path}/${kind}`, { invoiceId: debts[0]?.id });
  await fetch(String(body.url), { method: 'POST', redirect: 'manual', body: new URLSearchParams({ what }) });
  return (await offering.stranger('post', `${path}/transfer/outcome`)).body.charged;
}
/** Pays back some of the largest payment of somebody. */
const refund = async ({ customerId }: Person, amount: string, way: string) => {
  const [payment] = await rows<{ id: string }>(
    `select id::text from attempts where customer_id = $customerId and state = 'collected' order by amount desc, id`,
    { customerId },
  );
  return offering.done('post', `/api/payments/${payment?.id}/refund`, {
    ...{ amount, to: way, reason: 'Came too late' },
  });
};
const stateOf = async (person: Person) =>
  (
    await rows<{ state: string }>('select state from invoices where customer_id = $customerId order by id', {
      customerId: person.customerId,
    })
  ).map(({ state }) => state);
const isSound = async (when: string) => {
  for (const { rule, breaches } of await verify(world.almanac))
    expect(breaches, `${rule}, ${when}`).toEqual([]);
};

test('a quarter with every way of paying and every correction comes out to the cent, in books and documents', async () => {
  // January: everybody begins.
  const steady = await byCard('apiary-ground twice-a-month');
  const short = await byCard('adopt-a-row monthly', { code: '51', firstTries: 1 });
  const lost = await byCard('adopt-a-row monthly', { code: '41', onlyCharges: true });
  const asked = await byCard('adopt-a-row monthly', { confirms: true });
  const yen = await byCard('adopt-a-row monthly-yen');
  const dinar = await byCard('adopt-a-row monthly-dinar');
  const euro = await byCard('adopt-a-row monthly-eur');
  const kit = await enrol('starter-kit seven-instalments', {
    ...{ cardToken: await card(), answers: { 'Size of the veil': 'Medium' } },
  });
  const tried = await byCard('hive-watch monthly');
  const hand = await enrol('apiary-ground twice-a-month', { pays: 'invoice' });
  const several = await enrol('apiary-ground twice-a-month', { pays: 'invoice' });
  const silent = await enrol('apiary-ground twice-a-month', { pays: 'invoice' });
  const wrong = await enrol('apiary-ground twice-a-month', { pays: 'invoice' });
  const away = await enrol('apiary-ground twice-a-month', { pays: 'transfer' });
  const { bank } = await offering.done<{ bank: { url: string; publicKey: string } }>(
    'get',
    `/api/card-gateway?rateId=${rateOf.get('apiary-ground twice-a-month')}`,
  );
  const given = await fetch(new URL('/v1/bank-accounts', bank.url), {
    method: 'POST',
    headers: { Authorization: `Bearer ${bank.publicKey}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ iban: 'GB44TARN00010100000001', holder: 'Ada Ashgrove' }),
  });
  const { token: bankToken } = (await given.json()) as { token: string };
  const debited = await enrol('apiary-ground twice-a-month', { pays: 'bank', bankToken });
  const single = await offering.plan(
    { name: 'Single charges' },
    { interval: undefined, once: [{ name: 'A visit', amount: '48.00' }] },
    { methods: ['card', 'invoice'] },
  );
  rateOf.set('single', single.rateId);
  const visit = await enrol('single', { pays: 'invoice' });

  // The first week: the stub periods are invoiced; a bank asks its cardholder, one card was lost.
  await to('2027-01-06');
  expect(await atBank(await ownPage(asked), 'confirmation', 'confirm')).toMatchObject([
    { outcome: 'collected' },
  ]);
  expect(await stateOf(lost)).toEqual(['issued']);
  const another = await offering.stranger('post', `${await ownPage(lost)}/card`, { token: await card() });
  expect(another.body.charged).toMatchObject([{ outcome: 'collected' }]);
  expect(await atBank(await ownPage(away), 'transfer', 'pay')).toMatchObject([{ outcome: 'collected' }]);
  await isSound('the first week');

  // By hand: too little, the rest with too much in cash, several at once by cheque; by telephone.
  const one = await firstOpen(hand);
  await pays(hand, 'transfer', '100', [one]);
  await pays(hand, 'cash', String(BigInt(one.owed) - 100n + 250n), [await firstOpen(hand)]);
  expect(await stateOf(hand)).toEqual(['paid']);
  const call = await firstOpen(visit);
  await offering.done('post', `/api/customers/${visit.customerId}/charges`, {
    ...{ invoices: [call.id], amount: call.owed, token: await card() },
  });
  expect(await stateOf(visit)).toEqual(['paid']);
  await to('2027-01-22');
  const both = await openOf(several);
  expect(both.length).toBeGreaterThan(1);
  await pays(several, 'cheque', String(both.reduce((sum, { owed }) => sum + BigInt(owed), 0n)), both);
  // The over-payment was used first on the next invoice.
  expect((await openOf(hand)).map(({ total, owed }) => BigInt(total) - BigInt(owed))).toEqual([250n, 0n]);
  await isSound('the payments by hand');

  // Corrections: by line, in part, in full of an unpaid one, given up and paid after all.
  const [begun, mistake, later] = await openOf(wrong);
  if (!begun || !mistake || !later) throw new Error('Three are open.');
  await correct(mistake, { kind: 'lines', lines: [{ line: 0, amount: '300' }] }, 'The gate was shut');
  await correct(later, { kind: 'all' }, 'Invoiced by mistake');
  for (const open of await openOf(wrong)) await pays(wrong, 'transfer', open.owed, [open]);
  expect(await stateOf(wrong)).toEqual(['paid', 'paid', 'withdrawn']);
  const never = await firstOpen(silent);
  await offering.done('post', `/api/invoices/${never.id}/write-off`, { reason: 'Moved away' });
  await pays(silent, 'other', '100', [await firstOpen(silent)]);

  // February: money goes back to the card, to credit and by hand; credit is paid out; what runs is altered both ways.
  await to('2027-02-09');
  await refund(steady, '1000', 'gateway');
  await refund(several, '700', 'credit');
  await refund(asked, '200', 'cash');
  await offering.done('post', `/api/customers/${several.customerId}/pay-outs`, {
    ...{ currency: 'GBP', amount: '300', to: 'transfer', reason: 'Asked for it' },
  });
  const alter = (quantity: number) =>
    offering.done('post', `/api/subscriptions/${tried.id}/alter`, {
      kind: 'quantity',
      quantity,
      from: 'now',
    });
  await alter(4);
  await to('2027-02-13');
  await alter(1);
  expect(await stateOf(short)).toContain('paid');
  await isSound('the refunds');
  await to('2027-04-06');
  await isSound('the quarter');

  // Everything was played: each way in and out, each kind of correction.
  const played = (statement: string) =>
    rows<{ one: string }>(statement).then((all) => all.map(({ one }) => one));
  expect(
    await played(
      `select distinct coalesce(m.kind, a.means) as one from attempts a left join payment_methods m on m.id = a.payment_method_id
       where a.state = 'collected' order by 1`,
    ),
  ).toEqual(['bank account', 'card', 'cash', 'cheque', 'online transfer', 'other', 'transfer']);
  expect(await played(`select distinct kind as one from credit_notes order by 1`)).toEqual([
    'correction',
    'settlement',
    'withdrawal',
  ]);
  expect(await played(`select distinct means as one from refunds order by 1`)).toEqual([
    ...['cash', 'gateway', 'transfer'],
  ]);
  // Of one invoice for seven payments those that were due are paid.
  expect(await stateOf(kit)).toEqual(['part-paid']);
  for (const person of [yen, dinar, euro, debited]) expect(await stateOf(person)).toContain('paid');

  // Each statement of account comes to what is owed less the credit at hand.
  const standings = await rows<{ customerId: string; currency: string; owed: string }>(
    `select c.customer_id::text as "customerId", c.currency,
       (coalesce((select sum(owed) from invoices i where i.customer_id = c.customer_id and i.currency = c.currency
                  and i.state in ('issued', 'part-paid')), 0)
        - coalesce((select credit from credit_balances b where b.customer_id = c.customer_id and b.currency = c.currency), 0))::text as owed
     from (select distinct customer_id, currency from invoices) c order by 1, 2`,
  );
  for (const { customerId, currency, owed } of standings) {
    const { body } = await offering.ask('get', `/api/customers/${customerId}/account?currency=${currency}`);
    expect((body as AccountView).closing, `customer ${customerId}`).toBe(owed);
  }
  // And every document says what the books say: the PDF, and the UBL where the currency has one.
  const documents = await rows<{
    kind: 'invoice' | 'credit note';
    id: string;
    total: string;
    currency: string;
  }>(
    `select 'invoice' as kind, id::text, total::text, currency from invoices
     union all select 'credit note', id::text, total::text, currency from credit_notes order by 1, 2`,
  );
  expect(documents.length).toBeGreaterThan(50);
  let inUbl = 0;
  for (const { kind, id, total, currency } of documents) {
    const document = await readDocument(world.almanac, kind, id);
    const text = await pdfText((await pdfOf(world.almanac, document)).bytes);
    const said = `${kind === 'invoice' ? 'Total' : 'Credited'}, ${currency} ${sayFigure(BigInt(total), currency)}`;
    expect(text, `${kind} ${id}`).toContain(said);
    if (currency === 'KWD') continue;
    const xml = (await ublOf(document)).bytes.toString('utf8');
    expect(breachesOf(xml), `${kind} ${id}`).toEqual([]);
    const inclusive = new ReadDocument(xml).number('cac:LegalMonetaryTotal/cbc:TaxInclusiveAmount');
    expect(inclusive, `${kind} ${id}`).toBe(Number(sayFigure(BigInt(total), currency).replaceAll(',', '')));
    inUbl += 1;
  }
  expect(inUbl).toBeGreaterThan(40);
});
