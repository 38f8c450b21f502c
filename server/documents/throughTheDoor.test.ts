import { simpleParser } from 'mailparser';
import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { sayDate } from '../../core/words/date.ts';
import { breachesOf, ReadDocument } from '../../testing/en16931/rules.ts';
import { Offering } from '../../testing/offering.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { pdfText } from '../../testing/pdfText.ts';
import { World } from '../../testing/world.ts';
import { linkToken } from '../customers/link.ts';
import { MailRoute } from '../notices/mailRoute.ts';
import { Mailing } from '../notices/mailing.ts';

// Documents as they leave the house: from the desk, with letters, by a customer's link, and all of a month as one file.

let world: World;
let offering: Offering;
let cookie: string;
let paid: { id: string; customerId: string; number: string };
let open: { id: string; customerId: string; number: string };
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ cookie } = await signedIn(world, 'biller'));
  const business = await offering.done<{ version: number; value: object }>('get', '/api/setup/business');
  await offering.done('put', '/api/setup/business', {
    version: business.version,
    value: { ...business.value, legalName: 'Fenmarsh Hives Ltd', taxNumber: 'GB123456789', country: 'GB' },
  });
  const { rateId } = await offering.plan(
    { name: 'Yard' },
    {
      tax: { rate: '20', mode: 'exclusive' },
      lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '50.00' } }],
      terms: 'P14D',
    },
    { methods: ['card', 'invoice'] },
  );
  const byHand = await offering.enrolled(rateId, { pays: 'invoice' }, false);
  const byCard = await offering.enrolled(rateId);
  await world.turnTo(await offering.later(16));
  const invoiceOf = async (subscriptionId: string) =>
    (await world.almanac.db.row<{ id: string; customerId: string; number: string }>(
      `select id::text, customer_id::text as "customerId", prefix || number as number from invoices where subscription_id = $subscriptionId`,
      { subscriptionId },
    )) ?? { id: '', customerId: '', number: '' };
  [open, paid] = [await invoiceOf(byHand), await invoiceOf(byCard)];
});
afterAll(() => world.end());

const file = (path: string, as = cookie) =>
  request(offering.app)
    .get(path)
    .set('Cookie', as)
    .buffer(true)
    .parse((response, done) => {
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part));
      response.on('end', () => done(null, Buffer.concat(parts)));
    });

test('an invoice comes as PDF, as UBL that keeps the rules, and as a letter with both', async () => {
  const pdf = await file(`/api/invoices/${paid.id}/document.pdf`);
  expect([pdf.status, pdf.type]).toEqual([200, 'application/pdf']);
  expect(pdf.headers['content-disposition']).toContain(`Invoice ${paid.number}.pdf`);
  const text = await pdfText(pdf.body as Buffer);
  for (const said of [
    `Invoice`,
    paid.number,
    'Fenmarsh Hives Ltd',
    'Rent 50.00',
    'Total, GBP 60.00',
    'Still to be paid 0.00',
  ])
    expect(text).toContain(said);
  const ubl = await file(`/api/invoices/${paid.id}/document.xml`);
  const xml = (ubl.body as Buffer).toString('utf8');
  expect(breachesOf(xml)).toEqual([]);
  expect(new ReadDocument(xml).text('cac:LegalMonetaryTotal/cbc:PayableAmount')).toBe('60.00');
  const letter = await simpleParser((await file(`/api/invoices/${open.id}/letter.eml`)).body as Buffer);
  expect(letter.subject).toBe(`Invoice ${open.number}`);
  expect(letter.text).toContain('£60.00, to be paid by Mon 18 Jan 2027');
  expect(letter.attachments.map(({ filename }) => filename)).toEqual([
    `Invoice ${open.number}.pdf`,
    `Invoice ${open.number}.xml`,
  ]);
});

test('a credit note comes as PDF and UBL, and names its invoice', async () => {
  await offering.done('post', `/api/invoices/${paid.id}/credit-notes`, {
    ...{ what: { kind: 'amount', amount: '1200' }, reason: 'A broken pump' },
  });
  const note = await world.almanac.db.row<{ id: string }>(
    'select id::text from credit_notes order by id limit 1',
  );
  const text = await pdfText((await file(`/api/credit-notes/${note?.id}/document.pdf`)).body as Buffer);
  for (const said of ['Credit note', `Corrects ${paid.number}`, 'A broken pump', 'Credited, GBP 12.00'])
    expect(text).toContain(said);
  expect(
    breachesOf(((await file(`/api/credit-notes/${note?.id}/document.xml`)).body as Buffer).toString()),
  ).toEqual([]);
});

test('the letter that asks to pay, and that of a credit note, carry their documents', async () => {
  const route = new MailRoute(world.almanac);
  await new Mailing(world.almanac, route).round();
  route.close();
  const letters = await Promise.all(world.mail().map((text) => simpleParser(text)));
  const asks = letters.find(({ subject }) => subject?.includes(`Invoice ${open.number} for`));
  const [attached] = asks?.attachments ?? [];
  expect(attached?.filename).toBe(`Invoice ${open.number}.pdf`);
  const text = await pdfText(attached?.content ?? Buffer.alloc(0));
  expect(text).toContain('Total, GBP 60.00');
  // It leads to the page of the letter's own link.
  const [, link = ''] = /(http:\/\/[^\s]+\/own\/[^\s"]+)/.exec(asks?.text ?? '') ?? [];
  expect(text.replaceAll(' ', '')).toContain(link);
  const note = letters.find(({ subject }) => subject?.startsWith('Credit note'));
  expect(note?.attachments.map(({ filename }) => filename)).toEqual(['Credit note CN-1.pdf']);
});

test('a customer reads their own invoices by their link, and nobody else’s; staff’s link asks for staff', async () => {
  const { url } = await offering.done<{ url: string }>('post', `/api/invoices/${open.id}/pay-link`);
  const token = url.split('/own/')[1] ?? '';
  const own = await file(`/api/own/${token}/invoices/${open.id}/document.pdf`, '');
  expect([own.status, own.type]).toEqual([200, 'application/pdf']);
  expect((await file(`/api/own/${token}/invoices/${paid.id}/document.pdf`, '')).status).toBe(404);
  expect((await file(`/api/own/${token}x/invoices/${open.id}/document.pdf`, '')).status).toBe(404);
  const view = linkToken(world.almanac, token.split('.')[0] ?? '', 'view');
  expect((await file(`/api/own/${view}/invoices/${open.id}/document.pdf`, '')).status).toBe(403);
  expect((await file(`/api/own/${view}/invoices/${open.id}/document.pdf`)).status).toBe(200);
  const stranger = asking(offering.app);
  for (const path of ['document.pdf', 'document.xml', 'letter.eml'])
    expect((await stranger('get', `/api/invoices/${open.id}/${path}`)).status).toBe(401);
});

test('all documents of some days come as one file, each of them once', async () => {
  const { body } = await file('/api/documents.zip?from=2027-01-01&until=2027-01-31');
  const names = namesIn(body as Buffer);
  expect(names.toSorted()).toEqual(
    [`Invoice ${open.number}.pdf`, `Invoice ${paid.number}.pdf`, 'Credit note CN-1.pdf'].toSorted(),
  );
  expect(await offering.done('get', '/api/documents/count?from=2027-01-01&until=2027-01-31')).toEqual({
    documents: 3,
  });
  expect((await file('/api/documents.zip?from=2026-01-01&until=2026-01-31')).status).toBe(404);
  expect((await file('/api/documents.zip?from=2026-01-32&until=x')).status).toBe(422);
});

/** The names in a ZIP, by its central directory (APPNOTE 4.3.12). */
function namesIn(zip: Buffer): string[] {
  const names: string[] = [];
  for (
    let at = zip.indexOf('PK\x01\x02', 0, 'latin1');
    at >= 0;
    at = zip.indexOf('PK\x01\x02', at + 4, 'latin1')
  ) {
    const length = zip.readUInt16LE(at + 28);
    names.push(zip.subarray(at + 46, at + 46 + length).toString('utf8'));
  }
  return names;
}

test('a plan’s own note, footer and columns stand on its invoices; those issued before, and other plans, stay as they are', async () => {
  const invoicing = await offering.done<{ version: number; value: object }>('get', '/api/setup/invoicing');
  await offering.done('put', '/api/setup/invoicing', {
    version: invoicing.version,
    value: { ...invoicing.value, note: 'A note for all', footer: 'A footer for all' },
  });
  const { planId, rateId } = await offering.plan(
    { name: 'Hive' },
    { lines: [{ name: 'Hive', price: { scheme: 'each', amount: '7.00' } }] },
  );
  const printed = async () => {
    const id = await offering.enrolled(rateId, { quantity: 3 });
    await world.turnTo(await offering.later(1));
    const row = await world.almanac.db.row<{ id: string }>(
      'select id::text from invoices where subscription_id = $id',
      { id },
    );
    const read = async () => pdfText((await file(`/api/invoices/${row?.id}/document.pdf`)).body as Buffer);
    return { read, text: await read() };
  };
  const before = await printed();
  expect(before.text).toContain('A note for all');
  expect(before.text).toContain('3 × Hive 21.00');
  const { version, ...plan } = await offering.done<{ version: number } & Record<string, unknown>>(
    'get',
    `/api/plans/${planId}`,
  );
  const fields = ['name', 'outerName', 'kind', 'description', 'statementText', 'firstRate', 'picture'];
  const kept = Object.fromEntries(
    [...fields, 'documents', 'asks', 'extras', 'mayDo'].map((name) => [name, plan[name]]),
  );
  const change = (onInvoices: object) =>
    offering.ask('put', `/api/plans/${planId}`, { version, value: { ...kept, onInvoices } });
  const tooLong = await change({ note: 'x'.repeat(1001) });
  expect(tooLong.body.errors).toMatchObject([{ pointer: '/value/onInvoices/note' }]);
  expect((await change({ note: 'Bees of your own', columns: 'quantity and price' })).status).toBeLessThan(
    300,
  );

  const { text } = await printed();
  expect(text).toContain('Bees of your own');
  expect(text).not.toContain('A note for all');
  // What it says nothing of is as for all.
  expect(text).toContain('A footer for all');
  expect(text).toContain('Quantity Price');
  expect(text).toContain('Hive 3 7.00 21.00');
  expect(await before.read()).toBe(before.text);
});

test('the next invoice is looked at before it is issued: nothing is written of it, and then it is issued just so', async () => {
  const fields = [{ label: 'Purchase order', value: 'PO-77' }];
  const { rateId } = await offering.plan(
    { name: 'Meadow' },
    {
      tax: { rate: '20', mode: 'exclusive' },
      lines: [{ name: 'Meadow', price: { scheme: 'flat', amount: '15.00' } }],
    },
    { methods: ['card', 'invoice'] },
  );
  const starts = await offering.later(5);
  const id = await offering.enrolled(rateId, { pays: 'invoice', starts }, false);
  await world.almanac.db.rows('update subscriptions set invoice_fields = $fields::jsonb where id = $id', {
    ...{ id, fields: JSON.stringify(fields) },
  });
  const count = () => world.almanac.db.row(`select count(*)::int as n, max(number) as last from invoices`);
  const before = await count();
  const preview = await file(`/api/subscriptions/${id}/next-invoice.pdf`);
  expect([preview.status, preview.type]).toEqual([200, 'application/pdf']);
  const text = await pdfText(preview.body as Buffer);
  for (const said of [
    'not issued yet',
    'Preview',
    'Meadow 15.00',
    'Total, GBP 18.00',
    'PO-77',
    sayDate(starts),
  ])
    expect(text).toContain(said);
  expect(text).not.toContain('Pay it online');
  expect(await count()).toEqual(before);

  await world.turnTo(await offering.later(6));
  const issued = await world.almanac.db.row<{ id: string; number: string }>(
    'select id::text, prefix || number as number from invoices where subscription_id = $id',
    { id },
  );
  const pdf = await pdfText((await file(`/api/invoices/${issued?.id}/document.pdf`)).body as Buffer);
  const plain = (said: string) =>
    said
      .replaceAll(`Invoice ${issued?.number}`, 'Invoice not issued yet')
      .replace('Preview', '')
      .replace(/Still to be paid [\d.]+|Pay it online.*?(?=Invoice not issued yet, |$)/g, '')
      .replace(/\s+/g, ' ')
      .trim();
  expect(plain(pdf)).toBe(plain(text));
  // It goes on with the period after; what is over has none.
  const next = await pdfText((await file(`/api/subscriptions/${id}/next-invoice.pdf`)).body as Buffer);
  expect(next).not.toContain(`Issued ${sayDate(starts)}`);
  expect((await file('/api/subscriptions/999999/next-invoice.pdf')).status).toBe(404);
  await world.almanac.db.rows(`update subscriptions set state = 'lapsed' where id = $id`, { id });
  expect((await file(`/api/subscriptions/${id}/next-invoice.pdf`)).status).toBe(409);
});
