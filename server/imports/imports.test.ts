import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import request from 'supertest';
import { signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import type { ImportView } from './messages.ts';

let world: World;
let offering: Offering;
let cookie: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ cookie } = await signedIn(world, 'biller'));
  await offering.plan(
    { name: 'Adopt a Row' },
    { interval: 'P1M', lines: [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }] },
  );
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const HEADER = 'Member No;Full Name;E-mail;Membership;Interval;Next payment;Notes';
const give = (text: string | Buffer, name = 'members.csv', as = cookie) =>
  request(offering.app)
    .post(`/api/imports?name=${name}`)
    .set('X-Almanac', '1')
    .set('Cookie', as)
    .set('Content-Type', 'application/octet-stream')
    .send(Buffer.from(text));
const given = async (rows: readonly string[]) => {
  const answer = await give([HEADER, ...rows].join('\r\n'));
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  return `/api/imports/${(answer.body as { id: string }).id}`;
};
const view = (path: string) => offering.done<ImportView>('get', path);
/** Waits until it is no longer worked on. */
async function ended(path: string): Promise<ImportView> {
  let now = await view(path);
  await expect.poll(async () => (now = await view(path)).state, { timeout: 30_000 }).not.toMatch(/ing$/);
  return now;
}
const people = async () =>
  (
    await world.almanac.db.row<{ n: number }>(
      `select count(*)::int as n from customers where reference like '2__'`,
    )
  )?.n;

const GOOD = [
  '201;"Fenn; Ada";ada@post.example;Adopt a Row;Only;5/1/2027;x',
  '202;Bram Holt;bram@post.example;adopt a row;only;1/2/2027;',
];
const BAD = [
  '203;Cilla Möss;no address;Adopt a Row;Only;5/1/2027;',
  '204;Dell Dunn;dell@post.example;No such plan;Only;5/1/2027;=1+1',
  '205;Edda Ems;edda@post.example;Adopt a Row;Only;31/2/2027;"two\r\nlines"',
];

test('a file is understood by its headings, checked as a whole, gives back the rows to mend, and comes in once they are', async () => {
  const path = await given([...GOOD, ...BAD]);
  const first = await view(path);
  expect(first).toMatchObject({ state: 'new', isRemembered: false, report: null });
  expect(first.mapping).toMatchObject({
    reference: { column: 'Member No' },
    starts: { column: 'Next payment' },
  });
  const { mapping } = first;
  const preview = await offering.done<object[]>('post', `${path}/preview`, { mapping });
  expect(preview[0]).toMatchObject({ line: 2, row: { name: 'Fenn; Ada', starts: '2027-01-05' } });
  expect(preview[2]).toEqual({ line: 4, says: 'email: is not an address' });

  expect((await offering.ask('post', `${path}/start`, { mapping })).status).toBe(409);
  await offering.done('post', `${path}/check`, { mapping });
  const checked = await ended(path);
  expect(checked).toMatchObject({
    state: 'checked',
    badRows: 3,
    report: { added: { customers: 3, subscriptions: 2 } },
  });
  expect(await people()).toBe(0);
  expect((await offering.ask('post', `${path}/start`, { mapping })).status).toBe(409);

  const file = await offering.ask('get', `${path}/rows-to-mend.csv`);
  expect(file.headers['content-type']).toContain('text/csv');
  const text = file.text.replace(/^\ufeff/, '');
  expect(text.split('\r\n')[0]).toBe(
    'Member No,Full Name,E-mail,Membership,Interval,Next payment,Notes,what is wrong',
  );
  expect(text).toContain(
    '204,Dell Dunn,dell@post.example,No such plan,Only,5/1/2027,\'=1+1,"plan: there is no plan ""No such plan"""',
  );
  expect(text).toContain('205,Edda Ems');
  expect(text).not.toContain('Bram');

  const mended = await given(GOOD);
  await offering.done('post', `${mended}/check`, { mapping });
  expect((await ended(mended)).report?.problems).toEqual([]);
  // What was checked is what is brought in: another understanding is to be checked anew.
  const other = { ...mapping, starts: { value: '2027-03-01' } };
  expect((await offering.ask('post', `${mended}/start`, { mapping: other })).status).toBe(409);
  // Pressed by two at once, it comes in once.
  const starts = await Promise.all([1, 2].map(() => offering.ask('post', `${mended}/start`, { mapping })));
  expect(starts.map(({ status }) => status).sort()).toEqual([201, 409]);
  expect(await ended(mended)).toMatchObject({
    state: 'done',
    report: { added: { customers: 2, subscriptions: 2 } },
  });
  expect(await people()).toBe(2);
  const audit = await world.almanac.db.row(
    `select who from audit_entries where did = 'imported files' order by id desc limit 1`,
  );
  expect(audit).toEqual({ who: 'owner' });
  expect((await offering.ask('post', `${mended}/check`, { mapping })).status).toBe(409);
  expect((await offering.ask('delete', mended)).status).toBe(409);

  // The next file with the same headings is understood as this one was.
  const next = await given(GOOD);
  expect(await view(next)).toMatchObject({ isRemembered: true, mapping });
  await offering.done('delete', next);
  expect((await offering.ask('get', next)).status).toBe(404);
  await world.turnTo('2027-02-02');
  const charged = await world.almanac.db.rows(
    `select c.name, i.period_from as "from", i.total::text from invoices i join customers c on c.id = i.customer_id
     where c.reference like '2__' order by i.period_from, c.id`,
  );
  // The first charge is the one that the file names, and none before it.
  expect(charged).toEqual([
    { name: 'Fenn; Ada', from: '2027-01-05', total: '1200' },
    { name: 'Bram Holt', from: '2027-02-01', total: '1200' },
  ]);
});

test('one whose worker is gone is broken off, says that nothing is stored, and can be begun again', async () => {
  const path = await given(['299;Zoe Zinn;zoe@post.example;;;;']);
  const { mapping } = await view(path);
  await world.almanac.db.rows(
    `update imports set state = 'importing', mapping = $mapping::jsonb, beat_at = now() - interval '2 minutes' where id = $id`,
    { id: path.split('/').at(-1) ?? '', mapping: JSON.stringify(mapping) },
  );
  expect(await view(path)).toMatchObject({
    state: 'broken',
    says: expect.stringContaining('Nothing of it is stored'),
  });
  await offering.done('post', `${path}/check`, { mapping });
  expect(await ended(path)).toMatchObject({ state: 'checked', report: { added: { customers: 1 } } });
});

test('what is no list of customers is refused at once, and readers bring in nothing', async () => {
  expect((await give('')).status).toBe(422);
  expect((await give('only one column\r\nx')).body.detail).toContain('fewer than two columns');
  expect((await give('a;b\r\n"open;x')).status).toBe(422);
  expect((await give(`${Array.from({ length: 201 }, (_, i) => `c${i}`).join(',')}\r\n`)).status).toBe(422);
  const reader = await signedIn(world, 'reader');
  expect((await give('a,b\r\n1,2', 'x.csv', reader.cookie)).status).toBe(403);
  const path = await given(GOOD);
  const wrong = await offering.ask('post', `${path}/check`, {
    mapping: { name: { column: 'Gone' }, email: { column: 'E-mail' } },
  });
  expect(wrong.status).toBe(422);
  expect(wrong.body.errors[0].pointer).toBe('/mapping/name');
});
