import { simpleParser } from 'mailparser';
import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { mend } from '../readiness/mends.ts';
import { MOST_OF_LETTER_BYTES } from '../customers/fileMessages.ts';
import { MailRoute } from '../notices/mailRoute.ts';
import { Mailing } from '../notices/mailing.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let cookie: string;
let rateId: string;
const LINES = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ cookie } = await signedIn(world, 'owner', 'Olga'));
  ({ rateId } = await offering.plan({ name: 'Rows' }, { lines: LINES }, { methods: ['card', 'invoice'] }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const pdf = (size = 60) => Buffer.concat([Buffer.from('%PDF-1.7\n'), Buffer.alloc(size, 'x')]);
const give = (path: string, bytes: Buffer, name: string, as = cookie) =>
  request(offering.app)
    .post(`${path}?name=${encodeURIComponent(name)}`)
    .set('Cookie', as)
    .set('X-Almanac', '1')
    .set('Content-Type', 'application/octet-stream')
    .send(bytes);
const ahead = async (bytes: Buffer, name: string) => {
  const given = await give('/api/files', bytes, name);
  expect(given.status, JSON.stringify(given.body)).toBe(201);
  return given.body.id as string;
};
const customerOf = async (id: string) =>
  (await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`)).customerId;

test('documents of an enrolment go with the letters they are for, to the customer and to who stands beside them', async () => {
  const [welcome, rules] = [pdf(10), pdf(2000)];
  const files = [
    { id: await ahead(welcome, 'Welcome “2027”.pdf'), goesWith: 'first letter' },
    { id: await ahead(rules, 'House rules.pdf'), goesWith: 'invoices' },
  ];
  const contacts = [
    { name: 'Tess Reed', email: 'tess@accounts.example', letters: ['payments'] },
    { name: 'Bo Reed', email: 'bo@post.example', letters: ['subscription'] },
  ];
  const answer = await request(offering.app)
    .post('/api/subscriptions')
    .set('Cookie', cookie)
    .set('X-Almanac', '1')
    .send({
      ...{ customer: { name: 'Ada Fenn', email: 'ada@post.example' }, rateId, pays: 'invoice' },
      ...{ starts: await offering.today(), files, contacts, own: { termDays: 60 } },
    });
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  await world.turnTo('2027-01-05');
  const route = new MailRoute(world.almanac);
  await new Mailing(world.almanac, route).round();
  route.close();
  const letters = await Promise.all(world.mail().map((text) => simpleParser(text)));
  const got = letters.map(({ to, subject, attachments }) => ({
    to: [to ?? []].flat().flatMap(({ value }) => value.map(({ address }) => address))[0],
    about: /invoice/i.test(subject ?? '') ? 'invoice' : 'start',
    files: attachments
      .filter(({ filename }) => filename !== 'Invoice 1.pdf')
      .map(({ filename, content, contentType }) => [filename, content.length, contentType]),
    isItself: attachments.some(
      ({ filename, content }) =>
        filename === 'Invoice 1.pdf' && content.subarray(0, 5).toString() === '%PDF-',
    ),
  }));
  const first = [['Welcome “2027”.pdf', welcome.length, 'application/pdf']];
  const everyInvoice = [['House rules.pdf', rules.length, 'application/pdf']];
  const sorted = (rows: typeof got) =>
    rows.toSorted((a, b) => `${a.to}${a.about}`.localeCompare(`${b.to}${b.about}`));
  expect(sorted(got.filter(({ to }) => !to?.endsWith('staff.example')))).toEqual(
    sorted([
      { to: 'ada@post.example', about: 'start', files: first, isItself: false },
      { to: 'bo@post.example', about: 'start', files: first, isItself: false },
      { to: 'ada@post.example', about: 'invoice', files: everyInvoice, isItself: true },
      { to: 'tess@accounts.example', about: 'invoice', files: everyInvoice, isItself: true },
    ]),
  );
  // The letterbook says what went with it, and the customer's documents what they go with.
  const written = await world.almanac.db.row<{ id: string }>(
    `select id::text from letters where event = 'started' and contact_id is null order by id desc limit 1`,
  );
  expect(await offering.done('get', `/api/letters/${written?.id}`)).toMatchObject({
    files: ['Welcome “2027”.pdf'],
  });
  const customerId = await customerOf(answer.body.id as string);
  const path = `/api/customers/${customerId}/files`;
  expect(await offering.done('get', path)).toMatchObject([
    { name: 'House rules.pdf', goesWith: 'invoices', plan: 'Rows' },
    { name: 'Welcome “2027”.pdf', goesWith: 'first letter' },
  ]);
  // It can be chosen otherwise later, and goes with no letter from then on.
  const [house] = await offering.done<{ id: string }[]>('get', path);
  await offering.done('put', `${path}/${house?.id}`, { goesWith: 'nothing' });
  await world.turnTo('2027-02-05');
  const later = await world.almanac.db.row<{ files: string[] | null }>(
    `select files::text[] from letters where customer_id = $customerId and event = 'invoice to pay' order by id desc limit 1`,
    { customerId },
  );
  expect(later?.files).toBeNull();
});

test('a document that is gone, of somebody else, or too heavy for a letter is refused, and nothing of the enrolment is left', async () => {
  const count = () =>
    world.almanac.db.rows('select (select count(*) from customers), (select count(*) from contacts)');
  const before = await count();
  const refused = async (more: object) => {
    const { status, body } = await offering.enrol(rateId, more);
    return [status, body.errors];
  };
  const file = (id: string) => ({ files: [{ id, goesWith: 'first letter' }] });
  const says = expect.stringContaining('not there any more');
  expect(await refused(file('999999'))).toMatchObject([422, [{ pointer: '/files/0', detail: says }]]);
  // Olga sent it ahead; whoever enrols here is somebody else.
  const hers = await ahead(pdf(), 'Hers.pdf');
  expect(await refused(file(hers))).toMatchObject([422, [{ pointer: '/files/0' }]]);
  expect((await give('/api/files', Buffer.from('MZ plain'), 'a.pdf')).status).toBe(422);
  expect((await give('/api/files', pdf(), 'a.pdf', 'session=none')).status).toBe(401);

  const person = { name: 'Tess', email: 'tess@accounts.example' };
  const twice = { contacts: [person, { ...person, email: 'TESS@accounts.example' }] };
  expect(await refused(twice)).toMatchObject([422, [{ pointer: '/contacts/1/email' }]]);
  expect(await count()).toEqual(before);

  const customerId = await customerOf(await offering.enrolled(rateId));
  const path = `/api/customers/${customerId}/files`;
  const heavy = await Promise.all(
    Array.from({ length: 3 }, () => give(path, pdf(MOST_OF_LETTER_BYTES / 2 - 1000), 'Heavy.pdf')),
  );
  const put = (at: number) => offering.ask('put', `${path}/${heavy[at]?.body.id}`, { goesWith: 'invoices' });
  expect([(await put(0)).status, (await put(1)).status]).toEqual([200, 200]);
  expect((await put(2)).body.errors).toMatchObject([{ pointer: '/goesWith' }]);
});

test('a trial of one’s own takes the place of the rate’s, or of none; without a card it is asked for as the rate says', async () => {
  const own = (trialDays: number) => ({ own: { trialDays } });
  const dues = async (id: string) =>
    (await offering.done<{ coming: { dueOn: string; due: string }[] }>('get', `/api/subscriptions/${id}`))
      .coming[0];
  const today = await offering.today();
  const later = await offering.enrolled(rateId, own(10));
  expect(await dues(later)).toMatchObject({ dueOn: await offering.later(10), due: '1200' });
  expect(await offering.done('get', `/api/subscriptions/${later}`)).toMatchObject({
    trialEndsOn: await offering.later(10),
  });

  const trial = { lines: LINES, trial: { length: 'P30D', amount: '2.00' } };
  const free = { withoutMethod: 'end' };
  const tried = await offering.plan({ name: 'Tried' }, trial, free);
  expect(await dues(await offering.enrolled(tried.rateId, own(0)))).toMatchObject({
    dueOn: today,
    due: '1200',
  });
  const shorter = await dues(await offering.enrolled(tried.rateId, own(3)));
  expect(shorter).toMatchObject({ dueOn: today, due: '200' });
  // A trial without a card is what the rate allows: without the trial a card is needed.
  expect((await offering.enrol(tried.rateId, own(5), false)).status).toBe(201);
  expect((await offering.enrol(tried.rateId, own(0), false)).body.errors).toMatchObject([
    { pointer: '/cardToken' },
  ]);
  expect((await offering.enrol(rateId, own(367))).body.errors).toMatchObject([{ pointer: '/own/trialDays' }]);
});

test('a tax number is checked by the country it is of; one that was there before stays until it is changed', async () => {
  const person = (country: string, tax_number: string) => ({
    customer: { name: 'Firm', email: 'firm@post.example', another: true, country, tax_number },
  });
  const answer = async (country: string, number: string) =>
    (await offering.enrol(rateId, person(country, number))).body;
  for (const [country, number] of [
    ['GB', 'GB 980 7806 84'],
    ['DE', 'DE136695976'],
    ['NL', 'NL004495445B01'],
    ['KW', 'whatever they use'],
    ['', '123'],
  ] as const)
    expect(await answer(country, number), number).toHaveProperty('id');
  // Two digits swapped, and another country's.
  for (const [country, number] of [
    ['GB', 'GB 980 7860 84'],
    ['NL', 'DE136695976'],
    ['NL', '--------'],
  ] as const)
    expect((await answer(country, number)).errors, number).toMatchObject([
      { pointer: '/customer/tax_number', detail: expect.stringContaining('is no tax number of') },
    ]);
  const id = await customerOf((await answer('GB', 'GB 980 7806 84')).id as string);
  await world.almanac.db.rows(`update customers set tax_number = 'OLD 1' where id = $id`, { id });
  const change = (to: object) => offering.changeCustomer(id, to);
  expect((await change({ phone: '01234' })).status).toBe(200);
  expect((await change({ taxNumber: 'OLD 2' })).body.errors).toMatchObject([{ pointer: '/value/taxNumber' }]);
});

test('a customer’s language is one there is, and their own page reads dates and figures as they write them', async () => {
  const person = (language: string) => ({
    customer: { name: 'Firm', email: 'firm@post.example', another: true, country: 'DE', language },
  });
  const refused = await offering.enrol(rateId, person('klingon'));
  expect(refused.body.errors).toMatchObject([{ pointer: expect.stringContaining('/customer') }]);
  const localeOf = async (language: string) => {
    const id = await offering.enrolled(rateId, person(language));
    const { path } = await offering.done<{ path: string }>('post', `/api/subscriptions/${id}/own-page`);
    return (await offering.done<{ locale: string }>('get', `/api${path}`)).locale;
  };
  // What has other figures or another calendar is not guessed at.
  expect([await localeOf('de'), await localeOf(''), await localeOf('fa')]).toEqual([
    'de-DE',
    'en-GB',
    'en-GB',
  ]);
});

test('who is asked to agree to the terms of service does so on their own page before they pay, and it is kept from where', async () => {
  const asked = { pays: 'mail', asksTerms: true };
  const none = await offering.enrol(rateId, asked, false);
  expect(none.body.errors).toMatchObject([{ pointer: '/asksTerms' }]);
  await mend(world.almanac, 'terms');
  const id = await offering.enrolled(rateId, asked, false);
  const link = await CustomerLink.findOne({
    where: { customerId: await customerOf(id) },
    order: [['id', 'desc']],
    rejectOnEmpty: true,
  });
  const own = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
  const page = async () => (await offering.stranger('get', own)).body as { terms?: number | null };
  const version = (await page()).terms;
  expect(version).toEqual(expect.any(Number));
  const token = 'card-after-terms';
  await world.moveCards([{ token, behaviour: {} }]);
  const give = () => offering.stranger('post', `${own}/card`, { token });
  const early = await give();
  expect([early.status, early.body.errors]).toMatchObject([409, [{ pointer: '/terms' }]]);
  const agree = (of: unknown) => offering.stranger('post', `${own}/terms`, { version: of });
  expect((await agree(Number(version) + 1)).status).toBe(409);
  const once = await Promise.all([agree(version), agree(version)]);
  expect(once.map(({ status }) => status < 300)).toEqual([true, true]);
  expect((await page()).terms).toBeNull();
  expect((await give()).status).toBeLessThan(300);
  const { agreement } = await offering.done<{ agreement: object }>('get', `/api/subscriptions/${id}`);
  expect(agreement).toMatchObject({
    asksTerms: true,
    termsAgreed: { version, on: await offering.today(), from: expect.stringMatching(/127\.0\.0\.1|::1/) },
  });
  const done = await world.almanac.db.rows(
    `select 1 from audit_entries where did = 'agreed to the terms of service' and subject <> ''`,
  );
  expect(done).toHaveLength(1);
});
