import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, onTestFinished, test } from 'vitest';
import { statementsOf } from '../../testing/statementsOf.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import { importFiles } from './importFiles.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await world.moveCards([{ token: 'a-known-card', behaviour: {} }]);
});
afterAll(() => world.end());

const plan = (amount: string) =>
  JSON.stringify(
    {
      plans: [
        {
          key: 'post',
          name: 'Post',
          rates: [
            {
              key: 'monthly',
              name: 'Monthly',
              terms: { currency: 'GBP', lines: [{ price: { scheme: 'flat', amount } }], interval: 'P1M' },
            },
          ],
        },
      ],
    },
    null,
    2,
  );
const HEADER = 'reference,name,email,plan,rate,starts,quantity,card_token';
const files = (amount: string, ...rows: string[]) => [
  { name: 'plans.json', text: plan(amount) },
  { name: 'customers.csv', text: [HEADER, ...rows, ''].join('\r\n') },
];
const counts = () =>
  world.almanac.db.row<object>(
    `select (select count(*)::int from plans) as plans, (select count(*)::int from customers) as customers,
       (select count(*)::int from subscriptions) as subscriptions, (select count(*)::int from payment_methods) as cards`,
  );
const NOTHING = { plans: 0, customers: 0, subscriptions: 0, cards: 0 };

test('every problem is told by file and line, and nothing is changed', async () => {
  const wrong = files(
    '1e3',
    'A-1,Ada,ada@post.example,post,monthly,2027-02-30,,a-known-card',
    '"A-2","Bram ""the"" Bee",not-an-address,post,monthly,2027-02-01,,a-known-card',
    'A-3,Cilla,cilla@post.example,post,weekly,2027-02-01,,a-known-card',
    'A-4,Dorrit,dorrit@post.example,post,monthly,2026-12-01,,a-known-card',
    'A-5,Edwyn,edwyn@post.example,post,monthly,2027-02-01,0,an-unknown-card',
    `A-6,Fay,fay@post.example,post,monthly,2027-02-01,,${'x'.repeat(201)}`,
    'A-7,Gus,gus@post.example,,,,,an-unknown-card',
  );
  const { problems } = await importFiles(world.almanac, wrong, { dryRun: false });
  const told = problems.map(({ file, line, says }) => `${file}:${line} ${says.split(/[:,]/)[0]}`).sort();
  expect(told).toEqual([
    'customers.csv:2 starts',
    'customers.csv:3 email',
    'customers.csv:4 rate',
    'customers.csv:5 starts',
    'customers.csv:6 quantity',
    'customers.csv:7 card_token',
    'customers.csv:8 card_token',
    'plans.json:16 /lines/0/price/amount',
  ]);
  expect(await counts()).toEqual(NOTHING);
});

test('a dry run says what would be added and changes nothing; the import adds it; again it changes nothing', async () => {
  const good = files(
    '12.00',
    'A-1,Ada Ønskebjerg 蜂,ada@post.example,post,monthly,2027-02-01,,a-known-card',
    'A-2,Bram,bram@post.example,,,,,',
  );
  const added = { plans: 1, rates: 1, customers: 2, subscriptions: 1 };
  expect(await importFiles(world.almanac, good, { dryRun: true })).toMatchObject({ problems: [], added });
  expect(await counts()).toEqual(NOTHING);
  expect(await importFiles(world.almanac, good, { dryRun: false })).toMatchObject({ problems: [], added });
  const after = await counts();
  expect(after).toEqual({ plans: 1, customers: 2, subscriptions: 1, cards: 1 });
  const again = await importFiles(world.almanac, good, { dryRun: false });
  expect(again).toMatchObject({
    problems: [],
    added: { plans: 0, rates: 0, customers: 0, subscriptions: 0 },
  });
  expect(await counts()).toEqual(after);
});

test('a file that is no file of ours is told, not crashed on', async () => {
  const odd = [
    { name: 'plans.json', text: '{ "plans": [\n  { "key": ' },
    { name: 'customers.csv', text: 'reference,name\r\n"unclosed' },
    { name: 'picture.png', text: '' },
  ];
  const { problems } = await importFiles(world.almanac, odd, { dryRun: true });
  expect(problems.map(({ file }) => file).sort()).toEqual(['customers.csv', 'picture.png', 'plans.json']);
});

test('what a plan requires goes along with those who are brought over, and who pays by invoice is not charged', async () => {
  const rate = (key: string, options: object) => ({
    ...{ key, name: key, options },
    terms: { currency: 'GBP', lines: [{ price: { scheme: 'flat', amount: '10.00' } }], interval: 'P1M' },
  });
  const extra = (key: string, how: string) => ({
    ...{ key, how, name: key, currency: 'GBP', price: { scheme: 'each', amount: '2.00' } },
    ...{ when: 'recurring', min: 2, max: 5, byCustomer: false },
  });
  const rates = [rate('card', {}), rate('invoice', { methods: ['invoice'] })];
  const extras = [extra('box', 'required'), extra('lid', 'preselected')];
  const text = JSON.stringify({ plans: [{ key: 'crate', name: 'Crate', rates, extras }] });
  const rows = [
    'C-1,Gail,gail@post.example,crate,card,2027-02-01,,',
    'C-2,Hugh,hugh@post.example,crate,invoice,2027-02-01,,',
  ];
  const customers = { name: 'customers.csv', text: [HEADER, ...rows, ''].join('\r\n') };
  const report = await importFiles(world.almanac, [{ name: 'plans.json', text }, customers], {
    dryRun: false,
  });
  expect(report.problems).toEqual([]);
  const stored = await world.almanac.db.rows(
    `select collects, terms -> 'lines' -> 1 ->> 'name' as extra, (terms -> 'lines' -> 1 ->> 'quantity')::int as taken,
       jsonb_array_length(terms -> 'lines') as lines from subscriptions where reference like 'C-%' order by reference`,
  );
  const same = { extra: 'box', taken: 2, lines: 2 };
  expect(stored).toEqual([
    { collects: 'automatic', ...same },
    { collects: 'by hand', ...same },
  ]);
});

/** So many new customers, each with a card and a subscription, numbered from one. */
const people = (prefix: string, count: number) =>
  Array.from({ length: count }, (_, n) => {
    const starts = `2027-02-${String((n % 28) + 1).padStart(2, '0')}`;
    return `${prefix}-${n},Person "${n}" Larkspur,p${n}.${prefix}@post.example,post,monthly,${starts},${n % 3 === 0 ? 2 : ''},a-known-card`;
  }).map((row) => row.replace(/Person "(\d+)" Larkspur/, '"Person ""$1"", Larkspur"'));
const csv = (...rows: string[]) => [{ name: 'customers.csv', text: [HEADER, ...rows, ''].join('\r\n') }];

test('a long file is added batch by batch, in as many statements for each; what stands in it twice is added once', async () => {
  const { db } = world.almanac;
  const added = async (rows: string[]) => {
    const progress: number[] = [];
    const report = await importFiles(world.almanac, csv(...rows), {
      dryRun: false,
      progress: (done) => progress.push(done),
    });
    expect(report.problems).toEqual([]);
    expect(progress.at(-1)).toBe(rows.length);
    return report.added;
  };
  const few = await statementsOf(db, () => added(people('F', 4)));
  const many = await statementsOf(db, () => added(people('M', 400)));
  expect(many.length).toBe(few.length);
  // The last row of the second batch is the first of the first once more, under another name.
  const long = people('L', 999);
  const again = (long[0] ?? '').replace('Person', 'Nobody');
  expect(await added([...long, again])).toMatchObject({ customers: 999, subscriptions: 999 });
  const twice = await db.rows<{ name: string; start: string; taken: number }>(
    `select c.name, s.starts_on as start, (s.terms -> 'lines' -> 0 ->> 'quantity')::int as taken
     from customers c join subscriptions s on s.customer_id = c.id where c.reference = 'L-0'`,
  );
  expect(twice).toEqual([{ name: 'Person "0", Larkspur', start: '2027-02-01', taken: 2 }]);
  // Among its rules: cards have mandates, and what is stored ahead is what the terms come to.
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('what is wrong far down in a long file takes back all before it; the first problems are named and the others counted', async () => {
  const before = await counts();
  const good = people('X', 700);
  const broken = await importFiles(world.almanac, csv(...good, 'X-700,"unclosed'), { dryRun: false });
  expect(broken.problems).toMatchObject([
    { line: 702, says: expect.stringMatching(/^This line cannot be read as CSV: a quotation mark/) },
  ]);
  expect(await counts()).toEqual(before);
  const bad = people('Y', 250).map((row) => row.replace(',monthly,', ',fortnightly,'));
  const told = (await importFiles(world.almanac, csv(...good, ...bad), { dryRun: false })).problems;
  expect(told).toHaveLength(101);
  expect(told[0]).toMatchObject({ line: 702, says: 'rate: the plan "post" has no rate "fortnightly"' });
  expect(told[100]?.says).toBe('There are 150 more problems, the next in this line.');
  expect(await counts()).toEqual(before);
});

test('a header that names a column twice, or one that is none, is told, and its rows are not read', async () => {
  const text = 'reference,name,email,email,colour\r\nZ-1,Zed,zed@post.example,zed,red\r\n';
  const { problems } = await importFiles(world.almanac, [{ name: 'c.csv', text }], { dryRun: false });
  expect(problems.map(({ line, says }) => `${line} ${says.split(';')[0]}`)).toEqual([
    '1 There is no column "colour"',
    '1 The column "email" stands here twice.',
  ]);
  const empty = [{ name: 'c.csv', text: 'reference,colour' }];
  expect((await importFiles(world.almanac, empty, { dryRun: true })).problems).toHaveLength(3);
  const odd = csv('N-1,"Nul\0",nul@post.example,,,,,');
  expect((await importFiles(world.almanac, odd, { dryRun: true })).problems).toMatchObject([
    { line: 2, says: expect.stringMatching(/NUL/) },
  ]);
});

test('a file is read as a spreadsheet saves it: in its encoding, with its delimiter, and dates as the business writes them', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'saved-'));
  onTestFinished(() => rmSync(folder, { recursive: true }));
  await importFiles(world.almanac, files('10.00'), { dryRun: false });
  const utf16 = (text: string, mark: boolean, isBig: boolean) => {
    const bytes = Buffer.from(`${mark ? '\ufeff' : ''}${text}`, 'utf16le');
    return isBig ? bytes.swap16() : bytes;
  };
  // In Latin 1 these letters have the numbers that they have in the code page.
  const saved: readonly (readonly [string, (text: string) => Buffer, name: string])[] = [
    ['UTF-8', (text) => Buffer.from(text, 'utf8'), 'Zoë Łęcka'],
    ['UTF-8 with its mark', (text) => Buffer.from(`\ufeff${text}`, 'utf8'), 'Ἑλένη'],
    ['UTF-16, little end first', (text) => utf16(text, true, false), 'Ondřej'],
    ['UTF-16, big end first', (text) => utf16(text, true, true), 'Nguyễn'],
    ['UTF-16 without a mark', (text) => utf16(text, false, false), 'Åsa'],
    ['Windows-1252', (text) => Buffer.from(text, 'latin1'), 'Jürg Fée'],
  ];
  const STARTS = ['2027-02-03', '3/2/2027', '03.02.2027', '3 Feb 2027', '3-2-27'];
  let n = 0;
  for (const [what, written, name] of saved)
    for (const delimiter of [',', ';', '\t']) {
      n += 1;
      const starts = STARTS[n % STARTS.length] ?? '';
      // The delimiters of others stand within a cell.
      const cells = [
        `S-${n}`,
        `"${name}; of, all"`,
        `s${n}@post.example`,
        'post',
        'monthly',
        starts,
        '',
        'a-known-card',
      ];
      const path = join(folder, `saved-${n}.csv`);
      writeFileSync(
        path,
        written([HEADER.split(',').join(delimiter), cells.join(delimiter), ''].join('\r\n')),
      );
      const report = await importFiles(world.almanac, [{ name: `saved-${n}.csv`, path }], { dryRun: true });
      expect(report.problems, `${what}, ${starts}`).toEqual([]);
      expect(report.added.subscriptions, what).toBe(1);
      const done = await importFiles(world.almanac, [{ name: `saved-${n}.csv`, path }], { dryRun: false });
      expect(done.problems).toEqual([]);
      expect(
        await world.almanac.db.row(
          `select c.name, s.starts_on::text as starts from customers c join subscriptions s on s.customer_id = c.id
           where c.reference = $reference`,
          { reference: `S-${n}` },
        ),
        `${what} with ${JSON.stringify(delimiter)}`,
      ).toEqual({ name: `${name}; of, all`, starts: '2027-02-03' });
    }
});

test.each(['30/2/2027', 'tomorrow', '3/2', '2027', '13/13/2027', '3 Fnord 2027', '+2w'])(
  'a day that is none, or that nobody would put into a file, is named: %s',
  async (starts) => {
    const row = `D-1,Dora,dora@post.example,post,monthly,${starts},,a-known-card`;
    const { problems } = await importFiles(world.almanac, files('10.00', row), { dryRun: true });
    expect(problems).toMatchObject([
      { line: 2, says: 'starts: is not a date that exists (YYYY-MM-DD, or 31/12/2027)' },
    ]);
  },
);
