import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
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
  );
  const { problems } = await importFiles(world.almanac, wrong, { dryRun: false });
  const told = problems.map(({ file, line, says }) => `${file}:${line} ${says.split(/[:,]/)[0]}`).sort();
  expect(told).toEqual([
    'customers.csv:2 starts',
    'customers.csv:3 email',
    'customers.csv:4 rate',
    'customers.csv:5 starts',
    'customers.csv:6 quantity',
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
