import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { SignUps } from '../../testing/signUps.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { JoinMessage } from './messages.ts';

/**
 * What a page shows is what is charged, whatever is sold: customers join for all kinds of terms, months go by, and every
 * charge that the gateway made is held against those that stood on the page before anybody agreed.
 */
let world: World;
let offering: Offering;
let signUps: SignUps;
const UNTIL = '2027-05-10';

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
  const vat = {
    percent: '20',
    mode: 'exclusive',
    country: null,
    region: '',
    validFrom: '2027-01-01',
    validTo: null,
  };
  const { id } = await offering.done('post', '/api/taxes', { value: { name: 'VAT', rates: [vat] } });
  const { version, value } = await offering.done<{ version: number; value: object }>(
    'get',
    '/api/setup/taxing',
  );
  await offering.done('put', '/api/setup/taxing', { version, value: { ...value, defaultTax: id } });
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const money = fc.integer({ min: 1, max: 9_999 }).map((pence) => (pence / 100).toFixed(2));
const interval = fc.constantFrom('P1M', 'P2M', 'P1W', 'P14D', 'P3M');
const line = fc.oneof(
  money.map((amount) => ({ name: 'Row', price: { scheme: 'flat', amount } })),
  money.map((amount) => ({ name: 'Row', price: { scheme: 'each', amount } })),
  fc.tuple(money, money).map(([first, rest]) => ({
    name: 'Row',
    price: {
      scheme: 'each-tier',
      tiers: [
        { to: 2, each: first },
        { to: null, each: rest },
      ],
    },
  })),
);
/** Terms of a rate, with what a page may leave to customers of it. */
const anyTerms = fc.record(
  {
    lines: line.map((one) => [one]),
    interval,
    trial: fc.constantFrom({ length: 'P7D' }, { length: 'P14D' }, { length: 'P1M', amount: '1.00' }),
    setup: money.map((amount) => ({ amount })),
    ends: fc.integer({ min: 2, max: 4 }).map((after) => ({ after })),
    once: fc.constant([{ name: 'Kit', amount: '7.50' }]),
  },
  { requiredKeys: ['lines', 'interval'] },
);
const anyJoining = fc.record({
  terms: anyTerms,
  quantity: fc.integer({ min: 1, max: 5 }),
  startsIn: fc.constantFrom(0, 0, 3, 20),
  billingDay: fc.constantFrom(undefined, undefined, 1, 28, 'last' as const),
});

test('for any terms and any choice the charges are those that stood on the page, to the cent and to the day', async () => {
  const sample = fc.sample(anyJoining, { numRuns: 40, seed: Number(process.env.SHOWN_SEED ?? 20_270_104) });
  const shown = new Map<string, readonly { dueOn: string; due: string }[]>();
  for (const [n, { terms, quantity, startsIn, billingDay }] of sample.entries()) {
    const counted = terms.lines[0]?.price.scheme !== 'flat';
    const monthly = /^P\d+M$/.test(terms.interval);
    const { rateId } = await offering.plan({ name: `Kind ${n}` }, terms);
    const { key } = await signUps.page([rateId], { quantityMost: 5, startWithin: 30, billingDay: true });
    const choice: JoinMessage['choice'] = {
      rateId,
      ...(counted ? { quantity } : {}),
      ...(startsIn > 0 ? { starts: await offering.later(startsIn) } : {}),
      ...(monthly && billingDay !== undefined && !terms.ends ? { billingDay } : {}),
    };
    const email = `kind${n}@post.example`;
    const message = await signUps.filledIn(key, { choice, customer: { email } });
    const answer = await signUps.send(key, message, `203.0.113.${n}`);
    expect(answer.status, `${JSON.stringify(terms)} ${JSON.stringify(answer.body)}`).toBe(201);
    shown.set(email, message.shown);
  }
  await world.turnTo(UNTIL);
  const charged = await world.almanac.db.rows<{ email: string; dueOn: string; due: string }>(
    `select c.email, i.due_on as "dueOn", (i.total - i.credit_used)::text as due
     from invoices i join customers c on c.id = i.customer_id
     where i.total > i.credit_used and i.state = 'paid' order by i.due_on, i.id`,
  );
  expect(charged.length).toBeGreaterThan(100);
  for (const [email, dues] of shown) {
    const theirs = charged.filter((one) => one.email === email).map(({ dueOn, due }) => ({ dueOn, due }));
    const told = dues.filter(({ dueOn }) => dueOn < UNTIL);
    // Twelve are shown at most; all of those that came due meanwhile were charged, and nothing beside them.
    expect(theirs.slice(0, dues.length), email).toEqual(told);
    if (dues.length < 12) expect(theirs.length, email).toBe(told.length);
  }
});

test('many who join together are written down as each would be alone', async () => {
  const { rateId } = await offering.plan(
    { name: 'Together' },
    { lines: [{ name: 'Row', price: { scheme: 'flat', amount: '3.00' } }] },
  );
  const { key } = await signUps.page([rateId], {
    questions: [{ label: 'Why?', kind: 'text', required: true }],
    policies: [],
  });
  const people = ['alone', ...Array.from({ length: 8 }, (_, n) => `beside${n}`)];
  const messages: JoinMessage[] = [];
  for (const name of people)
    messages.push(
      await signUps.filledIn(key, {
        questions: { 'Why?': `As ${name}` },
        customer: { name, email: `${name}@post.example`, phone: `0${name.length}` },
      }),
    );
  const [first, ...rest] = messages;
  if (!first) throw new Error('Nobody joins.');
  expect((await signUps.send(key, first, '203.0.113.99')).status).toBe(201);
  const answers = await Promise.all(rest.map((one, n) => signUps.send(key, one, `203.0.113.${n}`)));
  expect(answers.map(({ status, body }) => [status, body.charged?.outcome])).toEqual(
    rest.map(() => [201, 'collected']),
  );
  const rows = await world.almanac.db.rows<Record<string, unknown>>(
    `select c.name, c.phone, s.terms, s.state, s.answers, s.collects, a.channel, a.agreed_by, a.address, a.page_version, k.dues,
       k.customer_id = c.id as "ownReckoning", m.state as method, m.role, d.channel as mandate, d.address as "mandateFrom",
       (select count(*)::int from staff_letters l where l.once_key like 'enrolled:' || s.id || ':%') as told,
       (select count(*)::int from letters l where l.subscription_id = s.id) as letters,
       (select count(*)::int from customer_links o where o.subscription_id = s.id) as links,
       (select count(*)::int from audit_entries e where e.subject = c.name and e.did = 'joined on a sign-up page') as audited
     from customers c join subscriptions s on s.customer_id = c.id join agreements a on a.subscription_id = s.id
       join reckonings k on k.id = a.reckoning_id join payment_methods m on m.customer_id = c.id
       join mandates d on d.payment_method_id = m.id
     where c.name = any($people::text[]) order by c.id`,
    { people: `{${people.join(',')}}` },
  );
  expect(rows.length).toBe(people.length);
  const byName = (name: string) => rows.find((row) => row.name === name) ?? {};
  const alone = byName('alone');
  for (const [n, name] of people.slice(1).entries()) {
    const from = `203.0.113.${n}`;
    expect(byName(name), name).toEqual({
      ...alone,
      ...{ name, phone: `0${name.length}`, agreed_by: name, address: from, mandateFrom: from },
      answers: [{ label: 'Why?', value: `As ${name}` }],
    });
  }
  expect(alone).toMatchObject({
    channel: 'customer',
    mandate: 'customer',
    role: 'primary',
    ownReckoning: true,
    audited: 1,
  });
});
