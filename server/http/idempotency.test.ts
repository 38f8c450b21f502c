import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';

let world: World;
let offering: Offering;
let rateId: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '5.00' } }];
  ({ rateId } = await offering.plan({ name: 'Once' }, { lines }));
});
afterAll(() => world.end());

const wanted = (name: string) => ({
  customer: { name, email: `${name.toLowerCase()}@post.example`, another: true },
  ...{ rateId, starts: '2027-01-04', cardToken: `card-of-${name.toLowerCase()}` },
});
const enrol = async (name: string, key: string) => {
  await world.moveCards([{ token: `card-of-${name.toLowerCase()}`, behaviour: {} }]);
  return offering.ask('post', '/api/subscriptions', wanted(name)).set('Idempotency-Key', key);
};
const enrolled = async (name: string) =>
  (await world.almanac.db.rows('select 1 from customers where name = $name', { name })).length;
/** As if nothing had been heard for a minute of whoever works on a request. */
const silence = (key: string) =>
  world.almanac.db.rows(
    `update idempotency_keys set alive_at = now() - interval '1 minute' where key = $key`,
    { key },
  );

test('a double click enrols once', async () => {
  const answers = await Promise.all([1, 2, 3].map(() => enrol('Clicker', 'key-of-a-double-click')));
  expect(answers.map(({ status }) => status).sort()).toEqual([201, 409, 409]);
  expect(await enrolled('Clicker')).toBe(1);
  const again = await enrol('Clicker', 'key-of-a-double-click');
  expect(again.body).toEqual(answers.find(({ status }) => status === 201)?.body);
});

test('where the answer cannot be kept, what was done stays done and is said to be', async () => {
  const { db } = world.almanac;
  await db.sequelize.query(`
    create function refuse_answer() returns trigger language plpgsql as $$ begin raise exception 'no room'; end $$;
    create trigger refuse_answer before update of status on idempotency_keys for each row execute function refuse_answer()`);
  expect((await enrol('Keeper', 'key-without-room')).status).toBe(500);
  await db.sequelize.query('drop trigger refuse_answer on idempotency_keys');
  expect(await enrolled('Keeper')).toBe(1);
  expect((await enrol('Keeper', 'key-without-room')).status).toBe(409);
  await silence('key-without-room');
  const told = await enrol('Keeper', 'key-without-room');
  expect([told.status, told.body.detail]).toEqual([
    409,
    'This was done, and the answer to it was lost. Look at what there is before you ask for it again.',
  ]);
  expect(await enrolled('Keeper')).toBe(1);
});

test('a request whose server died before anything was written is done by whoever sends it again', async () => {
  const { body } = await enrol('Template', 'key-to-learn-the-asker');
  expect(body.id).toBeDefined();
  await world.almanac.db.rows(
    `insert into idempotency_keys (asker, key, fingerprint)
     select asker, 'key-of-the-dead', fingerprint from idempotency_keys where key = 'key-to-learn-the-asker'`,
  );
  const again = () =>
    offering
      .ask('post', '/api/subscriptions', { ...wanted('Template') })
      .set('Idempotency-Key', 'key-of-the-dead');
  expect((await again()).status, 'it may be at work still').toBe(409);
  await silence('key-of-the-dead');
  expect((await again()).status).toBe(201);
  expect(await enrolled('Template')).toBe(2);
  expect((await again()).status).toBe(201);
  expect(await enrolled('Template')).toBe(2);
});

test('a request that was refused may be sent again under its key, another under the same key may not', async () => {
  const bad = { ...wanted('Mender'), starts: '2020-01-01' };
  const send = (body: object) =>
    offering.ask('post', '/api/subscriptions', body).set('Idempotency-Key', 'key-mended');
  expect((await send(bad)).status).toBe(422);
  await world.moveCards([{ token: 'card-of-mender', behaviour: {} }]);
  expect((await send(wanted('Mender'))).status).toBe(201);
  expect((await send(bad)).status).toBe(422);
  expect((await send(bad)).body.detail).toContain('was used for another request');
});
