import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { refusedAt, SignUps } from '../../testing/signUps.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { PublicPage, SignUpPageForStaff, SignUpPageRow } from './messages.ts';
import { PAGE_STARTS, type PageStart } from './startMessages.ts';

let world: World;
let offering: Offering;
let signUps: SignUps;
const flat = (amount: string) => [{ name: 'Row', price: { scheme: 'flat', amount } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const of = <Row extends object>(sql: string, bound: Record<string, string> = {}) =>
  world.almanac.db.rows<Row>(sql, bound);
const setUp = async (section: string, to: object) => {
  const { version, value } = await offering.done<{ version: number; value: object }>(
    'get',
    `/api/setup/${section}`,
  );
  await offering.done('put', `/api/setup/${section}`, { version, value: { ...value, ...to } });
};
describe('what a page asks', () => {
  test('is what Setup asks, or more, or less; its own answers are kept with the subscription', async () => {
    const { rateId } = await offering.plan(
      { name: 'Asked', asks: [{ label: 'Size', kind: 'choice', choices: ['S', 'L'], required: true }] },
      { lines: flat('5.00') },
    );
    await setUp('customers', {
      ask: {
        phone: 'required',
        organisation: 'no',
        address: 'no',
        country: 'optional',
        language: 'no',
        tax_number: 'no',
      },
      fields: [{ label: 'Member since', required: true }],
    });
    const { key } = await signUps.page([rateId], {
      ask: { phone: 'no', organisation: 'required' },
      fields: { 'Member since': 'optional' },
      questions: [{ label: 'How did you hear of us?', kind: 'text', required: true }],
    });
    const page = await signUps.open(key);
    expect(page.ask).toMatchObject({ phone: 'no', organisation: 'required', country: 'optional' });
    expect(page.fields).toEqual([{ label: 'Member since', required: false }]);

    // What it would come to is said before anything is answered.
    expect((await signUps.quote(key, { rateId })).now).toBe('500');
    const choice = { rateId, answers: { Size: 'L' } };
    const questions = { 'How did you hear of us?': 'A neighbour' };
    const good = await signUps.filledIn(key, {
      choice,
      questions,
      customer: { organisation: 'Fen Ltd', country: 'GB' },
    });
    const lacking: [object, string][] = [
      [{ questions: {} }, '/questions/How did you hear of us?'],
      [{ choice: { rateId } }, '/choice/answers/Size'],
      [{ choice: { rateId, answers: { Size: 'XL' } } }, '/choice/answers/Size'],
      [{ customer: { ...good.customer, organisation: '' } }, '/customer/organisation'],
      [{ customer: { ...good.customer, fields: { Shoe: '42' } } }, '/customer/fields'],
      [{ customer: { ...good.customer, country: 'XX' } }, '/customer/country'],
    ];
    for (const [to, pointer] of lacking)
      expect(refusedAt(await signUps.send(key, { ...good, ...to } as never)), JSON.stringify(to)).toEqual([
        422,
        pointer,
      ]);
    expect((await signUps.send(key, good)).status).toBe(201);
    const row = await signUps.joinedWith(good.customer.email);
    expect(row.organisation).toBe('Fen Ltd');
    expect(row.answers).toEqual([
      { label: 'Size', value: 'L' },
      { label: 'How did you hear of us?', value: 'A neighbour' },
    ]);
    await setUp('customers', {
      ask: {
        phone: 'no',
        organisation: 'no',
        address: 'no',
        country: 'no',
        language: 'no',
        tax_number: 'no',
      },
      fields: [],
    });
  });

  test('goods go to an address, and to no country that is not shipped to', async () => {
    const { rateId } = await offering.plan({ name: 'Jars', kind: 'goods' }, { lines: flat('9.00') });
    await setUp('customers', { serves: ['GB', 'IE', 'FR'], shipsTo: ['GB', 'IE'] });
    const { key } = await signUps.page([rateId]);
    expect(await signUps.open(key)).toMatchObject({ shipsTo: ['GB', 'IE'], plans: [{ isGoods: true }] });
    const home = { address: '4 Sluice Lane', postcode: 'PE11 2AB', country: 'GB' };
    const good = await signUps.filledIn(key, { customer: home });
    const refused: [object, string][] = [
      [{ ...good.customer, address: '' }, '/choice/place/address'],
      [{ ...good.customer, country: 'FR', postcode: '75001' }, '/choice/place/country'],
      [
        { ...good.customer, shipping: { address: '1 rue', postcode: '75001', country: 'FR' } },
        '/choice/place/country',
      ],
      [{ ...good.customer, postcode: 'nowhere' }, '/choice/place/postcode'],
    ];
    for (const [customer, pointer] of refused)
      expect(
        refusedAt(await signUps.send(key, { ...good, customer } as never)),
        JSON.stringify(customer),
      ).toEqual([422, pointer]);
    const shipping = { name: 'Bo', address: '1 Quay', postcode: 'D01 F5P2', country: 'IE' };
    const elsewhere = { ...good, customer: { ...good.customer, shipping } };
    expect((await signUps.send(key, elsewhere)).status).toBe(201);
    expect((await signUps.joinedWith(good.customer.email)).served_at).toMatchObject(shipping);
    await setUp('customers', { serves: [], shipsTo: [] });
  });
});

test('somebody with an address that is known joins as somebody new; staff are told who has it', async () => {
  const { rateId } = await offering.plan({ name: 'Twice' }, { lines: flat('3.00') });
  const { key } = await signUps.page([rateId]);
  await signUps.joined(key, { customer: { name: 'Ann Moor', email: 'both@post.example' } });
  const again = await signUps.send(
    key,
    await signUps.filledIn(key, { customer: { name: 'Anne Moor', email: 'BOTH@post.example' } }),
  );
  // The answer is the same: a stranger learns of nobody whether they are a customer.
  expect([again.status, Object.keys(again.body).toSorted()]).toEqual([
    201,
    ['after', 'charged', 'coming', 'currency', 'documents', 'own', 'redirect', 'trialEnds'],
  ]);
  const notes = await of<{ says: string }>('select says from notes order by id');
  expect(notes.map(({ says }) => says)).toEqual([
    expect.stringContaining('Ann Moor has the same e-mail address.'),
  ]);
});

test('a page is read in the language that is asked for, in the look of its own, with its savings in money', async () => {
  const { planId, rateId } = await offering.plan(
    { name: 'Speaks', outerName: 'The marsh' },
    { lines: flat('12.00') },
  );
  const { id: yearly } = await offering.done('post', `/api/plans/${planId}/rates`, {
    ...{ name: 'Yearly', terms: { currency: 'GBP', interval: 'P1Y', lines: flat('120.00') } },
  });
  const { id: once } = await offering.done('post', `/api/plans/${planId}/rates`, {
    ...{ name: 'Once', terms: { currency: 'GBP', once: [{ name: 'Row', amount: '15.00' }] } },
  });
  const { id: own } = await offering.done('post', `/api/plans/${planId}/rates`, {
    name: 'Own',
    terms: {
      currency: 'GBP',
      interval: 'P1M',
      lines: [{ name: 'Gift', price: { scheme: 'chosen', amount: '5.00', min: '1.00' } }],
    },
  });
  const { key } = await signUps.page([rateId, yearly, once, own], {
    firstRate: yearly,
    language: 'de',
    texts: {
      de: {
        title: 'Das Moor',
        text: '<p onclick="x()">Guten Tag<script>alert(1)</script></p>',
        labels: { join: 'Los' },
      },
      fr: { title: 'Le marais' },
    },
    look: { mainColour: '#ffe600' },
  });
  const asked = async (language: string) =>
    (await offering.stranger('get', `/api/join/${key}`).set('Accept-Language', language)).body as PublicPage;
  expect((await asked('fr-CH, fr;q=0.9')).title).toBe('Le marais');
  // Nobody wrote it in Dutch: it is read as it was written first.
  const page = await asked('nl');
  expect([page.title, page.language, page.languages, page.labels.join]).toEqual([
    'Das Moor',
    'de',
    ['de', 'fr'],
    'Los',
  ]);
  expect(page.text).toBe('<p>Guten Tag</p>');
  expect(page.look).toMatchObject({ main: '#ffe600', onMain: '#16262b' });
  expect(page.look.heading).not.toBe('#ffe600');
  expect(page.plans[0]?.name).toBe('The marsh');
  expect(
    page.rates.map(({ name, saves }) => [name, saves && [saves.amount, saves.than, saves.basis]]),
  ).toEqual([
    ['Only', ['300', 'Once', 'each time, bought once']],
    ['Yearly', ['2400', 'Only', 'a year']],
    ['Once', null],
    ['Own', null],
  ]);
  expect(page.firstRate).toBe(yearly);
});

test('steps of visits are counted once each, never backwards, and nobody is joined by counting', async () => {
  const { rateId } = await offering.plan({ name: 'Counted' }, { lines: flat('4.00') });
  const { key, id } = await signUps.page([rateId]);
  const note = (visit: string, step: number) =>
    offering.stranger('post', `/api/join/${key}/visit`, { visit, step });
  const [one, two] = [crypto.randomUUID(), crypto.randomUUID()];
  for (const step of [0, 2, 1]) expect((await note(one, step)).status).toBe(200);
  await note(two, 0);
  expect((await note(two, 4)).status).toBe(422);
  const message = await signUps.filledIn(key);
  await signUps.send(key, { ...message, visit: one });
  await note(one, 3);
  const { numbers } = await offering.done<SignUpPageForStaff>('get', `/api/sign-up-pages/${id}`);
  expect(numbers.reached).toEqual([2, 1, 1, 1, 1]);
  const { rows } = await offering.done<{ rows: SignUpPageRow[] }>('get', `/api/sign-up-pages?search=${key}`);
  expect(rows).toMatchObject([
    { key, seen: 2, joined: 1, state: 'on', monthly: [{ currency: 'GBP', amount: '400' }] },
  ]);
});

test('pages are listed by state; an archived one leads nowhere, and one with nothing to sell says so', async () => {
  const { planId, rateId } = await offering.plan({ name: 'Listed' }, { lines: flat('4.00') });
  const { key, id } = await signUps.page([rateId]);
  const states = async (state: string) =>
    (
      await offering.done<{ rows: SignUpPageRow[] }>('get', `/api/sign-up-pages?search=${key}&state=${state}`)
    ).rows.map((row) => row.state);
  expect([await states('on'), await states('closed')]).toEqual([['on'], []]);
  await signUps.change(id, { until: '2027-01-04' });
  expect(await states('on')).toEqual(['on']);
  await world.turnTo('2027-01-05');
  expect([await states('closed'), (await signUps.open(key)).closed]).toEqual([['over'], 'over']);
  await signUps.change(id, { until: null });
  await offering.done('put', `/api/plans/${planId}/archived`, { archived: true });
  expect([await states('closed'), (await signUps.open(key)).closed]).toEqual([
    ['nothing to sell'],
    'nothing',
  ]);
  expect((await offering.done<SignUpPageForStaff>('get', `/api/sign-up-pages/${id}`)).faults.length).toBe(1);
  await offering.done('put', `/api/sign-up-pages/${id}/archived`, { archived: true });
  expect([await states(''), await states('archived')]).toEqual([[], ['archived']]);
  expect((await offering.stranger('get', `/api/join/${key}`)).status).toBe(404);
  expect((await offering.ask('put', `/api/sign-up-pages/${id}/on`, { on: true })).status).toBe(409);
});

test('an edit of an old version is refused with both values, and what cannot be is refused beside its field', async () => {
  const { rateId } = await offering.plan({ name: 'Edited' }, { lines: flat('4.00') });
  const { key, id } = await signUps.page([rateId]);
  const { value } = await offering.done<SignUpPageForStaff>('get', `/api/sign-up-pages/${id}`);
  await signUps.change(id, { places: 9 });
  const old = await offering.ask('put', `/api/sign-up-pages/${id}`, { version: 1, value });
  expect([old.status, old.body.theirs?.value.places]).toEqual([409, 9]);
  const other = await signUps.page([rateId]);
  for (const [to, pointer] of [
    [{ key: other.key }, '/value/key'],
    [{ key: 'preview' }, '/value/key'],
    [{ key: 'Über uns' }, '/value/key'],
    [{ rates: ['999'] }, '/value/firstRate'],
    [{ firstRate: '999' }, '/value/firstRate'],
    [{ language: 'fr' }, '/value/language'],
    [{ pictures: ['999'] }, '/value/pictures/0/picture'],
    [{ policies: ['cancellation'] }, '/value/policies'],
    [{ redirect: 'javascript:alert(1)' }, '/value/redirect'],
    [{ methods: [] }, '/value/methods'],
    [{ places: 0 }, '/value/places'],
  ] as const)
    expect(
      refusedAt(
        await offering.ask('put', `/api/sign-up-pages/${id}`, { version: 2, value: { ...value, ...to } }),
      ),
      JSON.stringify(to),
    ).toEqual([422, pointer]);
  expect((await signUps.open(key)).version).toBe(2);
});

test('every starting point makes a plan whose rates can be joined; what each way of payment costs is said', async () => {
  for (const start of Object.keys(PAGE_STARTS) as PageStart[]) {
    const { name, suggests } = PAGE_STARTS[start];
    const begun = await offering.done<{ rates: string[] }>('post', '/api/sign-up-starts', {
      ...{ start, name: `${name} of ours`, currency: 'GBP', amount: suggests[0], other: suggests[1] },
    });
    const { key } = await signUps.page(begun.rates, { ask: { address: 'required', country: 'required' } });
    const page = await signUps.open(key);
    expect(page.rates.length, start).toBe(begun.rates.length);
    for (const { id: rateId, chosen } of page.rates) {
      const choice = { rateId, ...(chosen ? { amount: chosen.suggested } : {}) };
      const customer = { address: '4 Sluice Lane', postcode: 'PE11 2AB', country: 'GB' };
      expect((await signUps.joined(key, { choice, customer })).charged?.outcome, start).toBe('collected');
    }
  }
  const lacking = await offering.ask('post', '/api/sign-up-starts', {
    ...{ start: 'course', name: 'C', currency: 'GBP', amount: '10' },
  });
  expect(refusedAt(lacking)).toEqual([422, '/other']);
  // 1.4 % and 0.20 of 12.00 by the gateway stand-in: 0.368, rounded.
  const costs = await offering.done<{ method: string; cost: string }[]>(
    'get',
    '/api/method-costs?amount=1200&currency=GBP',
  );
  expect(costs.find(({ method }) => method === 'card')?.cost).toBe('37');
  expect((await offering.ask('get', '/api/sign-up-pages/1/qr.svg')).headers['content-type']).toMatch(/svg/);
});
