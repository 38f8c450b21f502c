import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { SignUps } from '../../testing/signUps.ts';
import { FIRST_DAY, World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import { signUpWords } from '../../core/words/signUp/wordsOf.ts';

let world: World;
let offering: Offering;
let signUps: SignUps;
let planId: string;
let monthly: string;
let yearly: string;
const flat = (amount: string) => [{ name: 'Row', price: { scheme: 'flat', amount } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), { TRUST_PROXY: 'loopback' });
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
  ({ planId, rateId: monthly } = await offering.plan({ name: 'Orchard' }, { lines: flat('12.00') }));
  ({ id: yearly } = await offering.done('post', `/api/plans/${planId}/rates`, {
    name: 'Yearly',
    terms: { currency: 'GBP', interval: 'P1Y', lines: flat('120.00') },
  }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const of = <Row extends object>(sql: string, bound: Record<string, string> = {}) =>
  world.almanac.db.rows<Row>(sql, bound);
const subscriptionOf = async (email: string) => {
  const [row] = await of<{ id: string; customerId: string; terms: Record<string, unknown> }>(
    `select s.id::text, s.customer_id::text as "customerId", s.terms from subscriptions s join customers c on c.id = s.customer_id where c.email = $email`,
    { email },
  );
  return row;
};

test('whoever joins is charged what was shown, at once, and has the very terms that staff would have made', async () => {
  const { key } = await signUps.page([monthly, yearly]);
  const page = await signUps.open(key);
  expect(
    page.rates.map(({ name, each, saves }) => [name, each, saves?.amount ?? null, saves?.than ?? null]),
  ).toEqual([
    ['Only', '1200', null, null],
    ['Yearly', '12000', '2400', 'Only'],
  ]);
  const shown = await signUps.quote(key, { rateId: yearly });
  expect([shown.now, shown.dues[1]]).toEqual(['12000', { dueOn: '2028-01-04', due: '12000' }]);

  const joined = await signUps.joined(key, {
    choice: { rateId: yearly },
    customer: { email: 'ada@post.example' },
  });
  expect(joined.charged).toEqual({ amount: '12000', method: 'Larkfield ending 4242', outcome: 'collected' });
  expect(joined.coming[0]).toEqual({ dueOn: '2028-01-04', due: '12000' });
  expect((await offering.stranger('get', `/api${joined.own}`)).status).toBe(200);

  const byStaff = await offering.enrolled(yearly);
  const theirs = await of<{ terms: object }>('select terms from subscriptions where id = $id', {
    id: byStaff,
  });
  const mine = await subscriptionOf('ada@post.example');
  expect(mine?.terms).toEqual(theirs[0]?.terms);
  const [agreement] = await of<Record<string, unknown>>(
    `select channel, agreed_by, address, page_version, (select min(d.channel) from mandates d join payment_methods m on m.id = d.payment_method_id
        where m.customer_id = $customerId) as mandate
     from agreements where subscription_id = $id`,
    { id: mine?.id ?? '', customerId: mine?.customerId ?? '' },
  );
  expect(agreement).toMatchObject({
    ...{ channel: 'customer', agreed_by: 'Joiner 1', address: '203.0.113.7', page_version: 1 },
    mandate: 'customer',
  });
  // The gateway has this charge once, and the run finds nothing more to do.
  await world.turnTo('2027-01-05');
  const charges = (await world.chargesAtGateway()).filter(({ amount }) => amount === 12_000n);
  expect(charges.length).toBe(2);
});

test('sent twice, or twice at once, it is one joining with one answer', async () => {
  const { key, id } = await signUps.page([monthly]);
  const message = await signUps.filledIn(key);
  const answers = await Promise.all([
    signUps.send(key, message),
    signUps.send(key, message),
    signUps.send(key, message),
  ]);
  const again = await signUps.send(key, message);
  for (const { status, body } of answers) {
    expect(status, JSON.stringify(body)).toBe(201);
    // Whoever asks while the bank is being asked is told just that.
    expect(body.charged).toMatchObject({
      amount: '1200',
      outcome: expect.stringMatching(/^(collected|under way)$/),
    });
  }
  expect(again.body.charged).toEqual({
    amount: '1200',
    method: 'Larkfield ending 4242',
    outcome: 'collected',
  });
  const [{ n = 0 } = {}] = await of<{ n: number }>(
    'select count(*)::int as n from agreements where page_id = $id',
    { id },
  );
  expect(n).toBe(1);
});

test('the last place is given once, whoever asks at the same time, and nobody else is charged', async () => {
  const { key, id } = await signUps.page([monthly], { places: 3 });
  const messages = [];
  for (let n = 0; n < 12; n += 1) messages.push(await signUps.filledIn(key));
  const before = (await world.chargesAtGateway()).length;
  const answers = await Promise.all(
    messages.map((message, n) => signUps.send(key, message, `203.0.113.${n}`)),
  );
  const statuses = answers.map(({ status }) => status).toSorted((a, b) => a - b);
  expect(statuses).toEqual([...Array(3).fill(201), ...Array(9).fill(410)]);
  expect((await world.chargesAtGateway()).length - before).toBe(3);
  expect(await signUps.open(key)).toMatchObject({ closed: 'full', placesLeft: 0 });
  const fewer = await offering.ask('put', `/api/sign-up-pages/${id}`, {
    version: 1,
    value: {
      ...(await offering.done<{ value: object }>('get', `/api/sign-up-pages/${id}`)).value,
      places: 2,
    },
  });
  expect([fewer.status, fewer.body.errors?.[0]?.pointer]).toEqual([422, '/value/places']);
});

test('a card that would be declined joins nobody: the bank is asked for what is due at once', async () => {
  const { key, id } = await signUps.page([monthly]);
  const answer = await signUps.send(key, await signUps.filledIn(key, {}, { code: '51' }), '203.0.113.200');
  expect([answer.status, answer.body.errors?.[0]?.pointer]).toEqual([422, '/cardToken']);
  expect(answer.body.detail).toContain('not enough money');
  expect(await of('select 1 from agreements where page_id = $id', { id })).toEqual([]);
  // Where nothing is due at once, money is not asked for: the trial begins.
  const trial = await offering.plan({ name: 'Tried' }, { lines: flat('9.00'), trial: { length: 'P14D' } });
  const tried = await signUps.page([trial.rateId]);
  const joined = await signUps.joined(tried.key, {}, { code: '51' });
  expect([joined.charged, joined.trialEnds, joined.coming[0]]).toEqual([
    null,
    '2027-01-19',
    { dueOn: '2027-01-19', due: '900' },
  ]);
});

test('one whose charge is declined after all has joined, is told so, and is a case like any other', async () => {
  const { key } = await signUps.page([monthly]);
  const joined = await signUps.joined(
    key,
    { customer: { email: 'late@post.example' } },
    { code: '51', onlyCharges: true },
  );
  expect(joined.charged).toMatchObject({ amount: '1200', outcome: 'declined' });
  const [row] = await of<{ state: string }>(
    'select k.state from recovery_cases k join subscriptions s on s.id = k.subscription_id join customers c on c.id = s.customer_id where c.email = $email',
    { email: 'late@post.example' },
  );
  expect(row?.state).toBe('open');
});

test('a page that is edited while it is filled in charges what was shown, or asks again', async () => {
  const plan = await offering.plan({ name: 'Edited' }, { lines: flat('10.00') });
  const { key, id } = await signUps.page([plan.rateId]);
  const [same, dearer, gone] = [
    await signUps.filledIn(key),
    await signUps.filledIn(key),
    await signUps.filledIn(key),
  ];
  await signUps.change(id, { texts: { en: { title: 'Another title' } } });
  expect((await signUps.send(key, same)).status).toBe(201);
  const rate = await offering.done<{ rates: { version: number; name: string }[] }>(
    'get',
    `/api/plans/${plan.planId}`,
  );
  const terms = { currency: 'GBP', interval: 'P1M', lines: flat('11.00') };
  await offering.done('put', `/api/rates/${plan.rateId}`, {
    ...{ version: rate.rates[0]?.version, value: { name: 'Only', terms }, subscribers: { kind: 'stay' } },
  });
  const refused = await signUps.send(key, dearer);
  expect([refused.status, refused.body.errors?.[0]?.pointer]).toEqual([409, '/shown']);
  expect(refused.body.detail).toContain('£11.00');
  const asked = { ...dearer, shown: [...(await signUps.quote(key, dearer.choice)).dues] };
  expect((await signUps.send(key, asked)).body.charged?.amount).toBe('1100');
  await offering.done('put', `/api/rates/${plan.rateId}/archived`, { archived: true });
  expect((await signUps.send(key, gone)).status).toBe(422);
});

test('what is agreed to is kept in its versions, and read once more where it was changed meanwhile', async () => {
  const write = (text: string) =>
    offering.done<{ id: string }>('post', '/api/policies', {
      ...{ kind: 'refund', text, source: '', effectiveOn: '2027-01-05' },
    });
  await write('We give it back.');
  const { key } = await signUps.page([monthly], {
    policies: ['refund'],
    language: 'de',
    texts: { de: { title: 'Obst' } },
  });
  const message = await signUps.filledIn(key, { customer: { email: 'bea@post.example' } });
  const without = await signUps.send(key, { ...message, agreed: [] });
  expect([without.status, without.body.errors?.[0]?.pointer]).toEqual([409, '/agreed']);
  const { id: later } = await write('We give it back within a week.');
  expect((await signUps.send(key, message)).status).toBe(409);
  // Whatever else somebody says that they agreed to counts for nothing.
  expect((await signUps.send(key, { ...message, agreed: [later, '999999'] })).status).toBe(201);
  const mine = await subscriptionOf('bea@post.example');
  expect(
    await of('select policy_id::text as id from agreed_policies where subscription_id = $id', {
      id: mine?.id ?? '',
    }),
  ).toEqual([{ id: later }]);
  // In the words of the language that the page was read in.
  const [mandate] = await of<{ agreed_text: string }>(
    'select d.agreed_text from mandates d join payment_methods m on m.id = d.payment_method_id where m.customer_id = $id',
    { id: mine?.customerId ?? '' },
  );
  expect(mandate?.agreed_text).toBe(signUpWords('de').agreedCard('Fenmarsh Hives'));
});

test('what a page does not leave to customers is refused, each beside its field', async () => {
  const { key } = await signUps.page([monthly], { methods: ['card'], quantityMost: null });
  const good = await signUps.filledIn(key);
  const refusals: [string, object, string][] = [
    ['another rate', { choice: { rateId: yearly } }, '/choice/rateId'],
    ['a quantity', { choice: { rateId: monthly, quantity: 2 } }, '/choice/quantity'],
    ['a code', { choice: { rateId: monthly, codes: ['SPRING'] } }, '/choice/codes/0'],
    ['a later start', { choice: { rateId: monthly, starts: '2027-02-01' } }, '/choice/starts'],
    ['an earlier one', { choice: { rateId: monthly, starts: FIRST_DAY } }, '/choice/starts'],
    ['a day of payment', { choice: { rateId: monthly, billingDay: 3 } }, '/choice/billingDay'],
    ['another way to pay', { pays: 'invoice' }, '/pays'],
    ['no card', { cardToken: undefined }, '/cardToken'],
    ['a card nobody knows', { cardToken: 'card-of-nobody-at-all' }, '/cardToken'],
    ['a hidden field', { website: 'https://spam.example' }, '/website'],
    ['an answer to nothing', { choice: { rateId: monthly, answers: { Size: 'L' } } }, '/choice/answers/Size'],
  ];
  for (const [what, to, pointer] of refusals) {
    const answer = await signUps.send(key, { ...good, ...to } as never);
    expect(
      [answer.status, answer.body.errors?.[0]?.pointer],
      `${what}: ${JSON.stringify(answer.body)}`,
    ).toEqual([422, pointer]);
  }
  // Nobody but staff sees a page that is off, and a rehearsal is theirs alone.
  const off = await signUps.page([monthly]);
  const message = await signUps.filledIn(off.key);
  await offering.done('put', `/api/sign-up-pages/${off.id}/on`, { on: false });
  expect((await signUps.send(off.key, message)).status).toBe(410);
  expect(await signUps.open(off.key)).toMatchObject({ closed: 'off', text: '', plans: [], rates: [] });
  const quoted = await offering.stranger('post', `/api/join/${off.key}/quote`, { choice: message.choice });
  expect(quoted.status).toBe(410);
  expect(
    (await offering.stranger('post', `/api/join/${off.key}/joining?rehearsal=yes`, message)).status,
  ).toBe(410);
  expect((await offering.stranger('get', '/api/join/there-is-none')).status).toBe(404);
});

test('a rehearsal plays all of it through and keeps nothing', async () => {
  const { key, id } = await signUps.page([monthly], { places: 1 });
  const message = await signUps.filledIn(key);
  const counts = () =>
    of(`select (select count(*)::int from customers) as customers, (select count(*)::int from subscriptions) as subscriptions,
      (select count(*)::int from invoices) as invoices, (select count(*)::int from letters) as letters,
      (select count(*)::int from staff_letters) as told, (select count(*)::int from sign_up_visits) as visits`);
  const [before, charges] = [await counts(), (await world.chargesAtGateway()).length];
  const played = await offering.ask('post', `/api/join/${key}/joining?rehearsal=yes`, message);
  expect([played.status, played.body.charged, played.body.own]).toEqual([
    201,
    { amount: '1200', method: 'Larkfield ending 4242', outcome: 'collected' },
    null,
  ]);
  expect(await counts()).toEqual(before);
  expect((await world.chargesAtGateway()).length).toBe(charges);
  expect((await signUps.send(key, message)).status).toBe(201);
  const { numbers } = await offering.done<{ numbers: object }>('get', `/api/sign-up-pages/${id}`);
  expect(numbers).toMatchObject({ reached: [1, 1, 1, 1, 1], monthly: [{ currency: 'GBP', amount: '1200' }] });
});
