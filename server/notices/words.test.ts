import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { changeSection, readSection } from '../settings/settings.ts';
import type { SectionName, SectionValue } from '../settings/messages.ts';
import { linkForLetter, linkToken } from '../customers/link.ts';
import type { OwnPage } from '../customers/ownMessages.ts';
import { stopToken } from './stopLetters.ts';
import type { LetterWordsView, TriedLetter } from './wordsMessages.ts';

/*
 * Letters are written in the language of their reader and in the business's own words, added to for a rate; what would break is
 * refused before it is stored, and what need not be can be stopped.
 */

let world: World;
let offering: Offering;
let rateId: string;
let otherRateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const terms = { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '1234.50' } }], interval: 'P1W' };
  ({ rateId } = await offering.plan({ name: 'Yard' }, terms));
  ({ rateId: otherRateId } = await offering.plan({ name: 'Barn' }, terms));
});
afterAll(() => world.end());

/** Somebody who reads a language and lives in a country, enrolled. */
async function somebody(
  facts: { language: string; country: string },
  more: { rateId?: string; cardToken?: string } = {},
): Promise<string> {
  const { rateId: of = rateId, ...given } = more;
  const id = await offering.enrolled(of, given);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  const changed = await offering.changeCustomer(customerId, facts);
  expect(changed.status, JSON.stringify(changed.body)).toBe(200);
  return customerId;
}

const lettersOf = (customerId: string, event: string) =>
  lettersWhere(world.almanac, 'l.customer_id = $customerId and l.event = $event', { customerId, event });

const plain = (text: string) => text.replace(/[\u00a0\u202f]/g, ' ');

async function section<Name extends SectionName>(name: Name, to: Partial<SectionValue<Name>>) {
  const { version, value } = await readSection(world.almanac, name);
  await changeSection(world.almanac, name, { version, value: { ...value, ...to } });
}

const path = (event: string, language = 'en') =>
  `/api/letter-words/${encodeURIComponent(event)}?language=${language}`;
const read = (event: string, language = 'en') => offering.done<LetterWordsView>('get', path(event, language));

/** Changes words as the editor does. */
async function change(event: string, to: object, language = 'en') {
  const { version, letter, added, byRate } = await read(event, language);
  return offering.ask('put', path(event), {
    ...{ language, version, letter, added },
    byRate: byRate.map(({ rateId: id, added: words }) => ({ rateId: id, added: words })),
    ...to,
  });
}

test('each customer reads their own language, with dates and amounts of their country; others that of the business', async () => {
  const german = await somebody({ language: 'de', country: 'AT' });
  const french = await somebody({ language: 'fr', country: 'FR' });
  // In Welsh there are no words: the business's own are read.
  const welsh = await somebody({ language: 'cy', country: 'GB' });
  await world.turnTo(await offering.later(1));
  const [receipt] = await lettersOf(german, 'receipt');
  expect(plain(receipt?.subject ?? '')).toBe('Quittung über £ 1.234,50: Yard');
  expect(receipt?.plain).toContain('Guten Tag P ');
  expect(receipt?.plain).toMatch(/am Mo\., \d+\. Jän|am \w+\., \d+\. \w+/);
  expect(receipt?.html).toContain('<html lang="de">');
  expect((await lettersOf(french, 'receipt'))[0]?.plain).toContain('Nous avons débité');
  expect((await lettersOf(welsh, 'receipt'))[0]?.subject).toBe('Receipt for £1,234.50: Yard');
  await section('business', { language: 'fr' });
  await world.turnTo(await offering.later(8));
  expect((await lettersOf(welsh, 'receipt'))[1]?.subject).toContain('Reçu de');
  // What was sent stays as it was read.
  expect((await lettersOf(welsh, 'receipt'))[0]?.subject).toBe('Receipt for £1,234.50: Yard');
  await section('business', { language: 'en' });
});

test('a decline is told in the reader’s words, with the link straight to paying', async () => {
  await world.moveCards([{ token: 'no-money', behaviour: { code: '51' } }]);
  const customerId = await somebody({ language: 'de', country: 'DE' }, { cardToken: 'no-money' });
  await world.turnTo(await offering.later(1));
  const [letter] = await lettersOf(customerId, 'payment declined');
  expect(letter?.subject).toBe('Ihre Zahlung für Yard ist nicht durchgegangen');
  expect(letter?.plain).toContain('das wurde abgelehnt: das Konto ist nicht ausreichend gedeckt.');
  expect(letter?.plain).toMatch(/Wir versuchen es am .+ noch einmal\./);
  expect(letter?.plain).toContain('Zahlen oder Karte ändern: https://');
});

test('own words are read from the next letter on, with what is added for all and for one rate', async () => {
  const [one, other] = [
    await somebody({ language: 'en', country: 'GB' }),
    await somebody({ language: 'en', country: 'GB' }, { rateId: otherRateId }),
  ];
  const letter = {
    subject: 'Paid: {{ amount }}',
    paragraphs: [
      '{% if how == "automatic" %}From {{ charged }}.{% endif %}{% if how == "by hand" %}By you.{% endif %}',
    ],
  };
  const byRate = [{ rateId: otherRateId, added: ['The barn is open.'] }];
  const stored = await change('receipt', { letter, added: ['Thank you, {{ customer }}.', ' '], byRate });
  expect([stored.status, stored.body.added]).toEqual([200, ['Thank you, {{ customer }}.']]);
  await world.turnTo(await offering.later(1));
  const [first] = await lettersOf(one, 'receipt');
  expect(first?.subject).toBe('Paid: £1,234.50');
  expect(first?.plain.split('\n\n').slice(1, 3)).toEqual([
    expect.stringMatching(/^From your card .+ ending \d{4}\.$/),
    expect.stringMatching(/^Thank you, P \d+\.$/),
  ]);
  expect(first?.plain).not.toContain('The barn');
  expect((await lettersOf(other, 'receipt'))[0]?.plain).toContain('The barn is open.');
  const list = await offering.done<{ event: string }[]>('get', '/api/letter-words');
  expect(list.find(({ event }) => event === 'receipt')).toMatchObject({
    ...{ ownIn: ['en'], addedIn: ['en'], ofRates: 1 },
  });
  // Put back to ours: nothing is left of it.
  expect((await change('receipt', { letter: null, added: [], byRate: [] })).status).toBe(200);
  expect(await world.almanac.db.rows('select 1 from letter_words')).toEqual([]);
  await world.turnTo(await offering.later(7));
  expect((await lettersOf(one, 'receipt'))[1]?.subject).toBe('Receipt for £1,234.50: Yard');
  expect((await lettersOf(one, 'receipt'))[0]?.subject).toBe('Paid: £1,234.50');
});

test('words that would break, name what is not there, or leave out what must be said, are refused at their place', async () => {
  const refused = await change('payment declined', {
    letter: { subject: 'A {{ thing }}', paragraphs: ['Good.', '{% if amount %}open'], link: 'Pay' },
    added: ['{{ policy }}'],
    byRate: [{ rateId, added: ['{% for x in y %}'] }],
  });
  expect([refused.status, refused.body.errors.map(({ pointer }: { pointer: string }) => pointer)]).toEqual([
    422,
    ['/letter/subject', '/letter/paragraphs/1', '/added/0', '/byRate/0/added/0'],
  ]);
  const silent = await change('trial ending', {
    letter: { subject: 'Soon', paragraphs: ['Your trial of {{ plan }} ends.'], link: 'Look' },
  });
  expect(silent.body.errors).toEqual([
    {
      pointer: '/letter/paragraphs',
      detail: expect.stringContaining('The first payment ({{ amount }})') as string,
    },
  ]);
  for (const [to, pointer] of [
    [{ letter: { subject: '', paragraphs: ['x'], link: 'x' } }, '/letter/subject'],
    [{ letter: { subject: 'a\nb', paragraphs: ['x'], link: 'x' } }, '/letter/subject'],
    [{ letter: { subject: 'a', paragraphs: [' '], link: 'x' } }, '/letter/paragraphs'],
    [{ added: ['x'.repeat(2001)] }, '/added/0'],
    [{ byRate: [{ rateId: '999999', added: ['x'] }] }, '/byRate/0/rateId'],
  ] as const) {
    const answer = await change('payment declined', to);
    expect([answer.status, answer.body.errors?.[0]?.pointer], JSON.stringify(to)).toEqual([422, pointer]);
  }
  expect((await offering.ask('get', path('no such event'))).status).toBe(404);
  expect((await offering.ask('get', path('constructor'))).status).toBe(404);
  expect(await world.almanac.db.rows('select 1 from letter_words')).toEqual([]);
});

test('two who change the same words do not write over each other', async () => {
  const { version } = await read('lapsed');
  const of = (text: string) => ({ language: 'en', version, letter: null, added: [text], byRate: [] });
  const answers = await Promise.all([
    offering.ask('put', path('lapsed'), of('One.')),
    offering.ask('put', path('lapsed'), of('Two.')),
  ]);
  expect(answers.map(({ status }) => status).toSorted()).toEqual([200, 409]);
  const lost = answers.find(({ status }) => status === 409);
  expect(lost?.body.theirs.value.added).toEqual((await read('lapsed')).added);
  expect((await change('lapsed', { added: [] })).status).toBe(200);
});

test('a letter is tried on a customer, says what stays empty, and is sent as a test that acts for nobody', async () => {
  const customerId = await somebody({ language: 'de', country: 'DE' });
  const wanted = {
    ...{ language: 'de', added: ['{{ words }}'], byRate: [], customerId, rateId: null, how: 'automatic' },
    letter: { subject: 'Hallo {{ customer }}', paragraphs: ['{{ amount }} am {{ next }}, {{ charged }}.'] },
  };
  const tried = await offering.done<TriedLetter>('post', '/api/letter-words/started/try', wanted);
  expect(tried.subject).toMatch(/^Hallo P \d+$/);
  expect(plain(tried.plain)).toMatch(/1\.234,50 £ am .+, Ihrer Karte \w+ mit den Endziffern \d{4}\./);
  expect(tried.empty).toEqual(['words']);
  const to = 'somebody@post.example';
  const before = world.mail().length;
  await offering.done('post', '/api/letter-words/started/test', { ...wanted, to });
  expect(world.mail().length).toBe(before + 1);
  const nobody = await offering.ask('post', '/api/letter-words/started/test', { ...wanted, to: 'nobody' });
  expect([nobody.status, nobody.body.errors[0].pointer]).toEqual([422, '/to']);
  // Every letter can be tried, of somebody and of nobody, in every case and language.
  for (const { event } of await offering.done<{ event: string }[]>('get', '/api/letter-words'))
    for (const language of ['en', 'de', 'fr'])
      for (const who of [customerId, null]) {
        const { letter, added } = await read(event, language);
        const asked = { language, letter, added, byRate: [], customerId: who, rateId: null, how: null };
        const path_ = `/api/letter-words/${encodeURIComponent(event)}/try`;
        const one = await offering.done<TriedLetter>('post', path_, asked);
        expect(`${one.subject}\n${one.plain}`, `${event} ${language}`).not.toMatch(
          /\{\{|\{%|undefined|null| {2,}/,
        );
      }
});

test('before a trial ends its letter says what is charged and when, how to cancel, and where', async () => {
  await offering.done('post', '/api/policies', {
    ...{ kind: 'cancellation', text: 'Cancel on your page, until the evening before.', source: '' },
    effectiveOn: await offering.today(),
  });
  const { rateId: trialRate } = await offering.plan(
    { name: 'Taste' },
    {
      ...{ lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '9.00' } }], interval: 'P1M' },
      trial: { length: 'P10D' },
    },
    { trialNoticeDays: 3 },
  );
  const id = await offering.enrolled(trialRate);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  await world.turnTo(await offering.later(9));
  const [letter] = await lettersOf(customerId, 'trial ending');
  expect(letter?.linkId).not.toBeNull();
  expect(letter?.plain).toContain('How to cancel: Cancel on your page, until the evening before.');
  expect(letter?.plain).toMatch(
    /the first payment of £9\.00 is charged to your card .+ on \w{3} \d+ \w{3} \d{4}/,
  );
  expect(letter?.plain).toContain('Look at it, or cancel: https://');
  // Terms of many pages are not the whole of a letter.
  await offering.done('post', '/api/policies', {
    ...{ kind: 'cancellation', text: 'You may cancel. '.repeat(1000), source: '' },
    effectiveOn: await offering.today(),
  });
  const { plain: long } = await offering.done<TriedLetter>('post', '/api/letter-words/trial%20ending/try', {
    ...{ language: 'en', letter: null, added: [], byRate: [], customerId, rateId: null, how: 'automatic' },
  });
  expect(long).toContain('You may cancel. … The whole text is on your own page.');
  expect(long.length).toBeLessThan(3000);
});

test('letters that need not be are stopped by the link at their foot, by one click of a mail program, or by staff', async () => {
  const customerId = await somebody({ language: 'en', country: 'GB' });
  const contact = { name: 'The treasurer', email: 't@post.example', letters: ['payments'] };
  await offering.done('post', `/api/customers/${customerId}/contacts`, contact);
  await world.turnTo(await offering.later(1));
  const rows = await world.almanac.db.rows<{ id: string; contact: boolean }>(
    `select id::text, contact_id is not null as contact from letters where customer_id = $customerId and event = 'receipt' order by id`,
    { customerId },
  );
  const letters = await lettersOf(customerId, 'receipt');
  // The treasurer's copy does not stop the letters of the customer.
  expect(letters.map(({ plain: text }) => text.includes('/stop-letters'))).toEqual([true, false]);
  const token = stopToken(world.almanac, rows[0]?.id ?? '');
  const stranger = offering.stranger;
  expect((await stranger('get', `/api/own/${token}/stop`)).body).toMatchObject({
    ...{ event: 'receipt', stopped: false, to: expect.stringMatching(/^p…@post\.example$/) as string },
  });
  for (const forged of [
    `${rows[0]?.id}.x`,
    `1${token}`,
    token.slice(0, -1),
    'x',
    `${rows[1]?.id}.${token.split('.')[1]}`,
  ])
    expect((await stranger('post', `/api/own/${forged}/stop`, { stop: true })).status, forged).toBe(404);
  // Two presses at once are as one.
  const pressed = await Promise.all(
    [1, 2].map(() => stranger('post', `/api/own/${token}/stop`, { stop: true })),
  );
  expect(pressed.map(({ body }) => body.stopped)).toEqual([true, true]);
  const stopped = async () =>
    (await offering.done<{ stopped: string[] }>('get', `/api/customers/${customerId}/stopped-letters`))
      .stopped;
  expect(await stopped()).toEqual(['receipt']);
  await world.turnTo(await offering.later(7));
  const more = await world.almanac.db.rows<{ to: string }>(
    `select to_address as to from letters where customer_id = $customerId and event = 'receipt' and id > $last::bigint`,
    { customerId, last: rows[1]?.id ?? '' },
  );
  expect(more).toEqual([{ to: contact.email }]);
  expect((await stranger('post', `/api/own/${token}/stop`, { stop: false })).body.stopped).toBe(false);
  // A mail program's click carries no header of ours (RFC 8058).
  const click = await request(offering.app)
    .post(`/stop-letters/${token}`)
    .type('form')
    .send('List-Unsubscribe=One-Click');
  expect([click.status, await stopped()]).toEqual([200, ['receipt']]);
  const byStaff = (these: string[]) =>
    offering.ask('put', `/api/customers/${customerId}/stopped-letters`, { stopped: these });
  expect((await byStaff(['payment declined'])).status).toBe(422);
  expect((await byStaff([])).body.stopped).toEqual([]);
  // After long enough the link is worth nothing.
  await world.almanac.db.rows(`update letters set written_on = written_on - 500 where id = $id`, {
    id: rows[0]?.id ?? '',
  });
  expect((await stranger('get', `/api/own/${token}/stop`)).status).toBe(410);
});

test('what a customer agrees to is kept, and confirmed, in the words that stood on their page', async () => {
  const customerId = await somebody({ language: 'de', country: 'DE' });
  const [{ id = '' } = {}] = await world.almanac.db.rows<{ id: string }>(
    'select id::text from subscriptions where customer_id = $customerId',
    { customerId },
  );
  const link = await world.almanac.db.transaction(async (within) =>
    linkForLetter({ id, customerId }, await offering.today(), within),
  );
  const path_ = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
  const page = (await offering.stranger('get', path_)).body as OwnPage;
  expect([page.language, page.rate]).toEqual(['de', expect.stringContaining('jede Woche')]);
  expect(page.agreed.card).toMatch(/^Ich ermächtige Fenmarsh Hives/);
  await world.moveCards([{ token: 'german-card', behaviour: {} }]);
  expect((await offering.stranger('post', `${path_}/card`, { token: 'german-card' })).status).toBe(201);
  const mandates = await world.almanac.db.rows<{ text: string }>(
    `select d.agreed_text as text from mandates d join payment_methods m on m.id = d.payment_method_id
     where m.customer_id = $customerId and m.gateway_token = 'german-card'`,
    { customerId },
  );
  expect(mandates).toEqual([{ text: page.agreed.card }]);
  expect((await lettersOf(customerId, 'card replaced'))[0]?.plain).toContain('Von jetzt an buchen wir');
});

test('who has stopped reminders is asked about no more, and nobody is said to have been told', async () => {
  const { rateId: byHand } = await offering.plan(
    { name: 'By hand' },
    { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '60.00' } }], terms: 'P10D' },
    { methods: ['invoice'] },
  );
  const id = await offering.enrolled(byHand, { pays: 'invoice' }, false);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
  await offering.done('put', `/api/customers/${customerId}/stopped-letters`, {
    stopped: ['invoice reminder'],
  });
  await world.turnTo(await offering.later(2));
  const links = () =>
    world.almanac.db.row<{ n: number }>(
      'select count(*)::int as n from customer_links where customer_id = $customerId',
      { customerId },
    );
  const before = await links();
  await world.turnTo(await offering.later(7));
  expect([await lettersOf(customerId, 'invoice reminder'), await links()]).toEqual([[], before]);
});
