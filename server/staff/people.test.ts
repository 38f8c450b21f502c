import type { Express } from 'express';
import { Secret, TOTP } from 'otpauth';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking } from '../../testing/door.ts';
import { until, World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';
import { makeSignInToken } from '../http/session.ts';
import { MailRoute } from '../notices/mailRoute.ts';
import { Mailing } from '../notices/mailing.ts';
import { sendDigest } from './digests.ts';

const PASSWORD = 'walnut barge lantern seven';
let world: World;
let app: Express;
let owner = '';

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
});
afterAll(() => world.end());

const cookiesOf = (response: { headers: Record<string, unknown> }) =>
  ((response.headers['set-cookie'] as string[] | undefined) ?? [])
    .map((cookie) => cookie.split(';')[0])
    .join('; ');
const stranger = () => asking(app);
const signIn = (email: string, password: string, code = '', cookie = '') =>
  asking(app, cookie)('post', '/api/session/password', { email, password, code });

test('the first start makes the owner by a one-time link, with a password nobody guesses', async () => {
  const token = await makeSignInToken(world.almanac.db);
  const ask = stranger();
  const become = (password: string, given = token) =>
    ask('post', '/api/session/owner', {
      token: given,
      name: 'Ada Ashgrove',
      email: 'ada@staff.example',
      password,
    });
  expect((await ask('get', `/api/session/link/${token}`)).body).toEqual({ purpose: 'make the owner' });
  expect((await become('short')).body.errors[0].pointer).toBe('/password');
  expect((await become('password1234')).status).toBe(422);
  expect((await become('ada ashgrove ada')).status).toBe(422);
  expect((await become(PASSWORD, `${token.slice(0, -1)}_`)).status).toBe(410);
  const made = await become(PASSWORD);
  expect(made.status).toBe(201);
  expect(String(made.headers['set-cookie'])).toMatch(/HttpOnly; SameSite=Strict/);
  owner = cookiesOf(made);
  expect((await become(PASSWORD)).status).toBe(409);
  expect((await asking(app, owner)('get', '/api/me')).body).toMatchObject({
    name: 'Ada Ashgrove',
    role: 'owner',
  });
  const hash = await world.almanac.db.row<{ password_hash: string }>('select password_hash from people');
  expect(hash?.password_hash).toMatch(/^\$argon2id\$/);
});

test('a later link of the terminal signs the owner in, once', async () => {
  const token = await makeSignInToken(world.almanac.db);
  const first = await stranger()('post', '/api/session/link', { token });
  expect(first.status).toBe(201);
  expect((await stranger()('post', '/api/session/link', { token })).status).toBe(410);
});

test('guessing is slowed for strangers, and the owner’s own device still comes in', async () => {
  const known = cookiesOf(await signIn('ada@staff.example', PASSWORD));
  expect(known).toContain('almanac_device');
  const answers = await Promise.all(
    Array.from({ length: 12 }, (_, i) => signIn('ada@staff.example', `wrong guess number ${i}`)),
  );
  const statuses = answers.map(({ status }) => status).sort();
  expect(statuses.filter((status) => status === 422)).toHaveLength(5);
  expect(statuses.filter((status) => status === 429)).toHaveLength(7);
  // Even the right password waits on a device that nobody knows; on hers it does not.
  expect((await signIn('ada@staff.example', PASSWORD)).status).toBe(429);
  expect((await signIn('ADA@staff.example', PASSWORD, '', known)).status).toBe(201);
  // An address that nobody has answers alike.
  const nobody = await Promise.all(Array.from({ length: 6 }, () => signIn('nobody@staff.example', 'wrong')));
  expect(nobody.map(({ status }) => status).sort()).toEqual([422, 422, 422, 422, 422, 429]);
});

test('a second factor is asked for, taken once, and made up for by a recovery code, once', async () => {
  const ask = asking(app, owner);
  expect((await ask('post', '/api/me/second-factor', { password: 'not it' })).status).toBe(422);
  const begun = await ask('post', '/api/me/second-factor', { password: PASSWORD });
  expect(begun.body.qr).toMatch(/^data:image\/svg\+xml/);
  const totp = new TOTP({ secret: Secret.fromBase32(begun.body.letters) });
  expect((await ask('post', '/api/me/second-factor/confirm', { code: '000000' })).status).toBe(422);
  const code = totp.generate();
  const { recoveryCodes } = (await ask('post', '/api/me/second-factor/confirm', { code })).body;
  expect(recoveryCodes).toHaveLength(10);
  const stored = await world.almanac.db.row<{ second_factor: string }>('select second_factor from people');
  expect(stored?.second_factor).not.toContain(begun.body.letters);

  const known = cookiesOf(
    await asking(app)('post', '/api/session/link', { token: await makeSignInToken(world.almanac.db) }),
  );
  const by = (given: string) => signIn('ada@staff.example', PASSWORD, given, known);
  expect((await by('')).body).toEqual({ signedIn: false, wants: 'code' });
  expect((await by(code)).status, 'a code that was used').toBe(422);
  expect((await by(recoveryCodes[0])).body).toEqual({ signedIn: true });
  expect((await by(recoveryCodes[0])).status).toBe(422);
  expect((await ask('post', '/api/me/second-factor/off', { password: PASSWORD })).status).toBe(422);
  const off = { password: PASSWORD, code: recoveryCodes[1] };
  expect((await ask('post', '/api/me/second-factor/off', off)).status).toBe(201);
});

test('an invited person comes in by the letter, once; roles and sessions are the owner’s to change', async () => {
  const ask = asking(app, owner);
  const given = { name: 'Bram Barleymow', email: 'bram@staff.example', role: 'biller' };
  expect((await ask('post', '/api/invitations', given)).status).toBe(201);
  const route = new MailRoute(world.almanac);
  const letter = await world.almanac.db.row<{ id: string }>(
    `select id::text from staff_letters where kind = 'invitation'`,
  );
  await new Mailing(world.almanac, route).round();
  route.close();
  // What the stand-in has taken, its lines put together again; other letters may lie beside the invitation.
  const invitation = () =>
    world
      .mail()
      .map((mail) => mail.replace(/=\r?\n/g, '').replace(/=3D/g, '='))
      .map((mail) => /\/invited\/([\w-]{43})(?![\w-])/.exec(mail)?.[1])
      .find((token) => token !== undefined);
  await until(() => Promise.resolve(invitation() !== undefined), 'the invitation');
  const token = invitation() ?? '';
  const kept = await world.almanac.db.row<{ plain: string }>(
    'select plain from staff_letters where id = $id',
    { id: letter?.id ?? '' },
  );
  expect(kept?.plain, 'the key is not kept once it is sent').toBe('');
  expect((await stranger()('get', `/api/invited/${token}`)).body).toMatchObject({ role: 'biller' });
  const came = await stranger()('post', '/api/invited', {
    token,
    name: 'Bram B.',
    password: 'otter granite plum yes',
  });
  expect(came.status).toBe(201);
  const bram = asking(app, cookiesOf(came));
  expect((await stranger()('post', '/api/invited', { token, name: 'X', password: PASSWORD })).status).toBe(
    410,
  );
  expect((await bram('get', '/api/people')).status).toBe(403);

  const people = (await ask('get', '/api/people')).body as { id: string; name: string; version: number }[];
  const [ada, other] = ['Ada Ashgrove', 'Bram B.'].map((name) => people.find((one) => one.name === name));
  const demote = { version: ada?.version, value: { name: 'Ada Ashgrove', role: 'reader' } };
  expect((await ask('put', `/api/people/${ada?.id}`, demote)).status, 'the only owner').toBe(409);
  const change = { version: other?.version, value: { name: 'Bram B.', role: 'reader' } };
  expect((await ask('put', `/api/people/${other?.id}`, change)).status).toBe(200);
  expect((await ask('put', `/api/people/${other?.id}`, change)).body.theirs).toMatchObject({ version: 2 });
  expect((await bram('post', '/api/turns', { to: '2027-01-05' })).status, 'a reader at once').toBe(403);
  expect((await ask('delete', `/api/people/${other?.id}`)).status).toBe(200);
  expect((await bram('get', '/api/me')).status, 'signed out at once').toBe(401);
});

test('staff are told at once, in one letter a day, or not at all, as each chose', async () => {
  const ask = asking(app, owner);
  const me = (await ask('get', '/api/me')).body;
  const value = { ...me.notices, 'payment collected': 'daily', 'payment failed': 'at once', enrolled: 'off' };
  expect((await ask('put', '/api/me/notices', { version: me.version, value })).status).toBe(200);
  await world.enrol([{}, {}, { code: '51' }]);
  await world.turnTo('2027-01-05');
  const written = await world.almanac.db.rows<{ kind: string; state: string; plain: string }>(
    `select kind, state, plain from staff_letters where kind <> 'safety' and kind <> 'invitation' order by id`,
  );
  expect(written.map(({ kind, state }) => `${kind}: ${state}`).sort()).toEqual([
    'digest: queued',
    'payment failed: queued',
  ]);
  expect(written.find(({ kind }) => kind === 'digest')?.plain).toContain('Payment collected (2)');
  const people = await world.almanac.db.rows<{ id: string }>('select id::text from people');
  for (const { id } of people) await sendDigest(world.almanac, id, '2027-01-04');
  const again = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from staff_letters where kind = 'digest'`,
  );
  expect(again?.n).toBe(1);
});
