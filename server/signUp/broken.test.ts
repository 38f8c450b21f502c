import request from 'supertest';
import { afterAll, beforeAll, beforeEach, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { refusedAt, SignUps } from '../../testing/signUps.ts';
import { until, World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { JoinMessage } from './messages.ts';

/* What becomes of who joins while something breaks: whoever was written down is charged once, and nobody else is. */
let world: World;
let offering: Offering;
let signUps: SignUps;
let key: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), { TRUST_PROXY: 'loopback' });
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
});
beforeEach(async () => {
  await world.misbehave({});
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
  const { rateId } = await offering.plan({ name: 'Orchard' }, { interval: 'P1Y', lines });
  ({ key } = await signUps.page([rateId]));
});
afterAll(async () => {
  await world.misbehave({});
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const turnOne = async () => world.turnTo(await offering.later(1));
const attemptOf = (email: string) =>
  world.almanac.db.row<{ state: string }>(
    `select a.state from attempts a join invoices i on i.id = a.invoice_id join customers c on c.id = i.customer_id
     where c.email = $email`,
    { email },
  );
/** How often each of some customers joined, and was charged. */
const joinedAndCharged = async (messages: readonly JoinMessage[]) => {
  const rows = await world.almanac.db.rows<{ email: string; joined: number; collected: string }>(
    `select c.email, count(distinct s.id)::int as joined, coalesce(sum(i.collected), 0)::text as collected
     from customers c join subscriptions s on s.customer_id = c.id left join invoices i on i.subscription_id = s.id
     where c.email = any($emails::text[]) group by c.email`,
    { emails: messages.map(({ customer }) => customer.email) },
  );
  return new Map(rows.map(({ email, joined, collected }) => [email, [joined, collected]]));
};

test('a server that is killed while many join has each of them joined and charged once, whether they ask again or not', async () => {
  const serve = () =>
    world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  const address = world.environment.ALMANAC_URL ?? '';
  // Each from an address of their own: how many cards are asked about from one at a time is not looked at here.
  const send = (message: JoinMessage) =>
    request(address)
      .post(`/api/join/${key}/joining`)
      .set({ 'X-Almanac': '1', 'X-Forwarded-For': `203.0.113.${10 + messages.indexOf(message)}` })
      .send(message);
  const doomed = await serve();
  const messages: JoinMessage[] = [];
  for (let n = 0; n < 24; n += 1) messages.push(await signUps.filledIn(key));
  const before = (await world.chargesAtGateway()).length;
  const charged = async () => (await world.chargesAtGateway()).length - before;
  // The gateway takes its time, so that it is killed between what is written down and what is charged.
  await world.misbehave({ slowMs: 300 });
  const sent = Promise.allSettled(messages.map((message) => send(message)));
  await until(async () => (await joinedAndCharged(messages)).size > 0, 'the first who is written down');
  const died = new Promise((resolve) => doomed.once('exit', resolve));
  doomed.kill('SIGKILL');
  await Promise.all([died, sent]);
  await world.misbehave({});
  const written = await joinedAndCharged(messages);
  const uncharged = [...written.values()].filter(([, collected]) => collected === '0');
  expect(uncharged.length, 'killed before they were charged').toBeGreaterThan(0);

  await serve();
  const again = messages.filter((_, n) => n % 2 === 0);
  for (const answer of await Promise.all(again.map((message) => send(message))))
    expect([answer.status, answer.body.charged?.outcome], JSON.stringify(answer.body)).toEqual([
      201,
      'collected',
    ]);
  // Of those who do not ask again, whoever was written down is charged by the run; nobody else is.
  await turnOne();
  const all = await joinedAndCharged(messages);
  const expected = messages.filter(({ customer: { email } }, n) => n % 2 === 0 || written.has(email));
  expect([...all].toSorted()).toEqual(
    expected.map(({ customer: { email } }) => [email, [1, '1200']] as const).toSorted(),
  );
  expect(await charged()).toBe(expected.length);
});

test('a bank that does not answer holds up nobody but its customer, who is told that the charge is under way', async () => {
  const slow = await signUps.filledIn(key, { customer: { email: 'slow@post.example' } }, { silent: true });
  const others = [await signUps.filledIn(key), await signUps.filledIn(key)];
  let isAnswered = false;
  const answer = signUps.send(key, slow).then((given) => {
    isAnswered = true;
    return given;
  });
  await until(
    async () => (await attemptOf('slow@post.example'))?.state === 'under way',
    'its charge to be asked for',
  );
  for (const { body } of await Promise.all(others.map((message) => signUps.send(key, message))))
    expect(body.charged).toMatchObject({ amount: '1200', outcome: 'collected' });
  expect(isAnswered).toBe(false);
  expect((await answer).body.charged).toMatchObject({ amount: '1200', outcome: 'under way' });
  // The gateway knows of it by its key: it is found there, and not made again.
  await until(async () => (await attemptOf('slow@post.example'))?.state === 'collected', 'it to be found');
  expect((await signUps.send(key, slow)).body.charged).toMatchObject({ outcome: 'collected' });
  expect(await joinedAndCharged([slow])).toEqual(new Map([['slow@post.example', [1, '1200']]]));
});

test('a gateway that goes away after it was asked about the card declines nobody: the charge is made once it is back', async () => {
  await world.misbehave({ chargesAnswer: { status: 503, times: 1_000_000, charged: false, page: false } });
  const [message, other] = [await signUps.filledIn(key), await signUps.filledIn(key)];
  expect((await signUps.send(key, message)).body.charged).toMatchObject({ outcome: 'under way' });
  await world.misbehave({ down: true });
  expect((await signUps.send(key, other)).status, 'away from the first').toBe(503);
  await turnOne();
  expect(await world.almanac.db.rows('select 1 from recovery_cases')).toEqual([]);
  await world.misbehave({});
  await turnOne();
  expect([...(await joinedAndCharged([message])).values()]).toEqual([[1, '1200']]);
});

test('one who cannot be invoiced at once is told that it is coming, and the run does it', async () => {
  const { db } = world.almanac;
  await db.rows(`create function no_invoices() returns trigger language plpgsql as
    'begin raise exception ''no invoices at present''; end'`);
  await db.rows('create trigger no_invoices before insert on invoices execute function no_invoices()');
  const message = await signUps.filledIn(key);
  const answer = await signUps.send(key, message);
  await db.rows('drop trigger no_invoices on invoices');
  expect([answer.status, answer.body.charged]).toEqual([
    201,
    { amount: '1200', method: '', outcome: 'under way' },
  ]);
  await turnOne();
  expect([...(await joinedAndCharged([message])).values()]).toEqual([[1, '1200']]);
});

test('a page that was read before midnight is read again after it: the dates are others', async () => {
  const message = await signUps.filledIn(key);
  await turnOne();
  const late = await signUps.send(key, message);
  expect(refusedAt(late)).toEqual([409, '/shown']);
  const { dues } = await signUps.quote(key, message.choice);
  expect((await signUps.send(key, { ...message, shown: [...dues] })).status).toBe(201);
});
