import request from 'supertest';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { MOST_FILE_BYTES, MOST_OF_CUSTOMER_BYTES } from './fileMessages.ts';

let world: World;
let offering: Offering;
let cookie: string;
let customerId: string;
let other: string;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ cookie } = await signedIn(world, 'owner', 'Olga'));
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
  const { rateId } = await offering.plan({ name: 'Rows' }, { lines });
  ({ customerId } = (await offering.enrol(rateId)).body as { customerId: string });
  ({ id: other } = (await offering.enrol(rateId)).body as { id: string });
});
afterAll(() => world.end());

const PDF = Buffer.from('%PDF-1.7\n1 0 obj\n<<>>\nendobj\ntrailer\n<<>>\n%%EOF\n');
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const give = (bytes: Buffer, name: string, more = '', as = cookie) =>
  request(offering.app)
    .post(`/api/customers/${customerId}/files?name=${encodeURIComponent(name)}${more}`)
    .set('Cookie', as)
    .set('X-Almanac', '1')
    .set('Content-Type', 'application/octet-stream')
    .send(bytes);

test('a document is told by its bytes, and comes back as it was given, as a file and nothing else', async () => {
  const given = await give(PDF, 'Contract “2027”.pdf');
  expect(given.status, JSON.stringify(given.body)).toBe(201);
  expect((await give(PNG, 'hive.pdf')).status).toBe(201);
  const list = await offering.done<object[]>('get', `/api/customers/${customerId}/files`);
  expect(list).toMatchObject([
    { name: 'hive.pdf', kind: 'PNG', size: PNG.length },
    { name: 'Contract “2027”.pdf', kind: 'PDF', addedBy: 'Olga' },
  ]);
  const path = `/api/customers/${customerId}/files/${given.body.id}`;
  const back = await request(offering.app).get(path).set('Cookie', cookie).buffer(true).responseType('blob');
  expect(Buffer.compare(back.body as Buffer, PDF)).toBe(0);
  expect(back.headers['content-disposition']).toMatch(/^attachment/);
  expect(back.headers['content-security-policy']).toContain('sandbox');
  expect((await request(offering.app).get(path)).status).toBe(401);
  const theirs = path.replace(`/${customerId}/`, '/999999/');
  expect((await offering.ask('get', theirs)).status).toBe(404);
});

test.each([
  { what: 'a page', bytes: Buffer.from('<html><script>alert(1)</script></html>'), name: 'x.pdf' },
  {
    what: 'a drawing that can run',
    bytes: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>'),
    name: 'x.png',
  },
  { what: 'a program', bytes: Buffer.from('7f454c460201010000', 'hex'), name: 'x.pdf' },
  { what: 'plain text', bytes: Buffer.from('hello'), name: 'x.txt' },
  { what: 'nothing', bytes: Buffer.alloc(0), name: 'x.pdf' },
])('$what is not kept, whatever it is called', async ({ bytes, name }) => {
  const answer = await give(bytes, name);
  expect(answer.status).toBe(422);
});

test('what is too large, or too much of one customer, is refused; a reader keeps nothing', async () => {
  const large = Buffer.concat([PDF, Buffer.alloc(MOST_FILE_BYTES)]);
  expect((await give(large, 'large.pdf')).status).toBe(413);
  await world.almanac.db.rows(
    `insert into customer_files (customer_id, name, media_type, bytes, size, added_on, added_by)
     values ($customerId, 'filler', 'application/pdf', '', $size, '2027-01-04', 'Olga')`,
    { customerId, size: MOST_OF_CUSTOMER_BYTES - PDF.length - 1 },
  );
  const full = await give(PDF, 'one more.pdf');
  expect([full.status, full.body.detail]).toEqual([
    422,
    'The documents of one customer have 50 MB together.',
  ]);
  await world.almanac.db.rows(`delete from customer_files where name = 'filler'`);
  const { cookie: reader } = await signedIn(world, 'reader', 'Rita');
  expect((await give(PDF, 'x.pdf', '', reader)).status).toBe(403);
  const own = await give(PDF, 'x.pdf', `&subscriptionId=${other}`);
  expect(own.body.errors[0].pointer).toBe('/subscriptionId');
});

test('what is thrown away is gone, and another’s cannot be', async () => {
  const [first] = await offering.done<{ id: string }[]>('get', `/api/customers/${customerId}/files`);
  expect((await offering.ask('delete', `/api/customers/999999/files/${first?.id}`)).status).toBe(404);
  const path = `/api/customers/${customerId}/files/${first?.id}`;
  expect((await offering.ask('delete', path)).status).toBeLessThan(300);
  expect((await offering.ask('delete', path)).status).toBe(404);
});
