import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { SignUps } from '../../testing/signUps.ts';
import { World } from '../../testing/world.ts';

let world: World;
let offering: Offering;
let signUps: SignUps;
let rateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
  ({ rateId } = await offering.plan(
    { name: 'Rows' },
    { lines: [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }] },
  ));
});
afterAll(() => world.end());

const statusOf = async (key: string, from: string, code?: string) =>
  (await signUps.send(key, await signUps.filledIn(key, {}, code === undefined ? {} : { code }), from)).status;

test('tries side by side are counted too; other addresses and pages, and good cards, are slowed by nobody', async () => {
  const { key } = await signUps.page([rateId]);
  const messages = [];
  for (let n = 0; n < 12; n += 1) messages.push(await signUps.filledIn(key, {}, { code: '41' }));
  const answers = await Promise.all(messages.map((message) => signUps.send(key, message, '198.51.100.1')));
  const asked = answers.filter(({ status }) => status === 422).length;
  expect(asked).toBe(4);
  expect(answers.filter(({ status }) => status === 429).length).toBe(8);
  expect(answers.find(({ status }) => status === 429)?.body.detail).toMatch(
    /^Several cards were declined. Wait \d+ seconds/,
  );
  // A good card from there waits as well: nobody knows of it yet that it is one.
  expect(await statusOf(key, '198.51.100.1')).toBe(429);
  expect(await statusOf(key, '198.51.100.2')).toBe(201);
  const other = await signUps.page([rateId]);
  expect(await statusOf(other.key, '198.51.100.1')).toBe(201);
  // Somebody may take as many good cards as they like.
  for (let n = 0; n < 6; n += 1) expect(await statusOf(other.key, '198.51.100.3')).toBe(201);

  // An hour later one more is asked about, and the wait begins anew; another 20 seconds are over after them.
  await world.almanac.db.rows("update card_tries set at = at - interval '21 seconds'");
  expect(await statusOf(key, '198.51.100.1', '41')).toBe(422);
  expect(await statusOf(key, '198.51.100.1', '41')).toBe(429);
  await world.almanac.db.rows("update card_tries set at = at - interval '21 seconds'");
  expect(await statusOf(key, '198.51.100.1', '41')).toBe(429);
  await world.almanac.db.rows("update card_tries set at = at - interval '2 hours'");
  expect(await statusOf(key, '198.51.100.1')).toBe(201);
});

test('a bank that says yes when it is asked, and declines the charge, is a try as well; sent again it is none', async () => {
  const { key } = await signUps.page([rateId]);
  const declines = () => signUps.filledIn(key, {}, { code: '05', onlyCharges: true });
  const first = await declines();
  for (const message of [first, first, first, await declines(), await declines(), await declines()]) {
    const { status, body } = await signUps.send(key, message, '198.51.100.20');
    expect([status, body.charged?.outcome]).toEqual([201, 'declined']);
  }
  expect((await signUps.send(key, await declines(), '198.51.100.20')).status).toBe(429);
});

test('networks count as one address, and a page under fire leaves each address one try', async () => {
  const { key } = await signUps.page([rateId]);
  for (const [n, from] of [
    '2001:db8:1:2::a',
    '2001:db8:1:2::b',
    '2001:db8:1:2:ffff::1',
    '2001:db8:1:2::c',
    '2001:db8:1:2::d',
  ].entries())
    expect(await statusOf(key, from, '41'), from).toBe(n < 4 ? 422 : 429);
  const [page] = await world.almanac.db.rows<{ id: string }>(
    'select id::text from sign_up_pages where key = $key',
    { key },
  );
  await world.almanac.db.rows(
    "insert into card_tries (page_id, address) select $id, '192.0.2.' || n from generate_series(1, 60) n",
    { id: page?.id ?? '' },
  );
  expect(await statusOf(key, '198.51.100.77', '41')).toBe(422);
  expect(await statusOf(key, '198.51.100.77', '41')).toBe(429);
  expect(await statusOf(key, '198.51.100.78')).toBe(201);
});

test('a gateway that is away, or a page that refuses something else, is no try with a card', async () => {
  const { key } = await signUps.page([rateId]);
  await world.misbehave({ down: true });
  const away = await signUps.filledIn(key).catch(() => null);
  expect(away).toBeNull();
  await world.misbehave({});
  const message = await signUps.filledIn(key);
  await world.misbehave({ down: true });
  for (let n = 0; n < 6; n += 1) expect((await signUps.send(key, message, '198.51.100.9')).status).toBe(503);
  await world.misbehave({});
  expect((await signUps.send(key, message, '198.51.100.9')).status).toBe(201);
});

test('one address joins at most sixty times a minute, whatever it sends; others are not held up', async () => {
  const { key } = await signUps.page([rateId]);
  const send = (from: string) =>
    offering.stranger('post', `/api/join/${key}/joining`, { nothing: 'good' }).set('X-Forwarded-For', from);
  const answers = [];
  for (let n = 0; n < 62; n += 1) answers.push(await send('198.51.100.60'));
  expect(answers.map(({ status }) => status)).toEqual([...Array(60).fill(422), 429, 429]);
  expect(Number(answers.at(-1)?.headers['retry-after'])).toBeGreaterThan(0);
  expect((await send('198.51.100.61')).status).toBe(422);
  // They are counted in the database, where every server sees them.
  const counted = await world.almanac.db.rows<{ points: number }>(
    "select points from rate_limits where key = 'joining:198.51.100.60'",
  );
  expect(counted).toEqual([{ points: 62 }]);
});
