import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { z } from 'zod';
import { World } from '../../testing/world.ts';
import { takeDocument, takeUpload } from '../branding/uploads.ts';
import { makeCodes, makeDiscount } from '../discounts/discounts.ts';
import type { PlanView } from '../plans/messages.ts';
import { Plan } from '../plans/Plan.ts';
import { listPlans } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { exportOffer, importOffer } from './offerFile.ts';
import { planFileSchema } from './planFile.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

const DRAWING =
  '<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><rect width="8" height="8" fill="#B97A06"/></svg>';
const SAMPLE = readFileSync(join(import.meta.dirname, '..', '..', 'demo', 'plans.json'), 'utf8');
interface Exported {
  readonly discounts: { readonly value: { readonly name?: string } }[];
}
const exported = async () => JSON.stringify(await exportOffer(world.almanac));
const bring = (text: string, dryRun: boolean, update = false) =>
  importOffer(world.almanac, { text, dryRun, update });
const NO_CHANGE = { rates: 0, plans: 0, variants: 0, rateCards: 0, discounts: 0 };
const hows = (found: Awaited<ReturnType<typeof bring>>) => [
  ...new Set(found.differences.map(({ how }) => how)),
];

test('what is exported is what was imported, and brought in again changes nothing', async () => {
  expect(hows(await bring(SAMPLE, true))).toEqual([
    'new plan',
    'new variant',
    'new rate card',
    'new discount',
  ]);
  await bring(SAMPLE, false);
  const plan = await Plan.findOne({ where: { key: 'hive-watch' }, rejectOnEmpty: true });
  const { id } = await makeDiscount(world.almanac, {
    name: 'Spring',
    as: 'percent',
    off: '10',
    currency: null,
    payments: null,
    appliesTo: 'all',
    plans: [plan.id],
    validFrom: null,
    validTo: null,
    mostUses: 5,
    mostPerCustomer: null,
    stacks: false,
  });
  await makeCodes(world.almanac, id, { kind: 'one', code: 'SPRING', mostUses: null });
  const out = JSON.stringify(await exportOffer(world.almanac));
  const [first] = (JSON.parse(out) as { plans: { rates: object[] }[] }).plans;
  const bare = (rates: readonly object[] = []) =>
    (rates as { key: string; name: string; terms: object }[]).map(({ key, name, terms }) => ({
      key,
      name,
      terms,
    }));
  expect(bare(first?.rates)).toEqual(
    bare((JSON.parse(SAMPLE) as { plans: { rates: object[] }[] }).plans[0]?.rates),
  );
  const again = await bring(out, false, true);
  expect(again.problems).toEqual([]);
  expect(hows(again)).toEqual(['same']);
  expect(again.added).toMatchObject({ plans: 0, rates: 0, discounts: 0 });
  expect(again.changed).toEqual(NO_CHANGE);
});

test('variants, rate cards and what a plan says are held against the file by member, and made what it says', async () => {
  const changed = SAMPLE.replace('"Room for three hives."', '"Room for four hives."')
    .replace('"each": "6.20"', '"each": "6.00"')
    .replace('"label": "Gate code"', '"label": "Code of the gate"');
  const would = await bring(changed, true, true);
  expect(would.problems).toEqual([]);
  expect(would.differences.filter(({ how }) => how === 'differs')).toMatchObject([
    { what: 'Hive Watch', members: [{ member: 'asks 2, label' }] },
    { what: 'Apiary Ground, variant Half plot', members: [{ member: 'says' }] },
    {
      what: 'Rate card Allotment societies',
      members: [{ member: 'prices 1, prices 1, tiers 1, each', stored: '6.20', file: '6.00' }],
    },
  ]);
  expect((await bring(changed, false)).changed).toEqual(NO_CHANGE);
  expect((await bring(changed, false, true)).changed).toEqual({
    ...NO_CHANGE,
    ...{ plans: 1, variants: 1, rateCards: 1 },
  });
  expect(hows(await bring(changed, true))).toEqual(['same']);
  await bring(SAMPLE, false, true);
});

test('a difference is shown by member; it is left, or saved as a new version where that is asked for', async () => {
  const changed = SAMPLE.replace('"amount": "92.00"', '"amount": "95.00"');
  const would = await bring(changed, true);
  expect(would.differences.filter(({ how }) => how === 'differs')).toMatchObject([
    {
      what: 'Hive Watch, Yearly, per hive',
      members: [{ member: 'price' }, { member: 'lines 1, price, amount', stored: '92.00', file: '95.00' }],
    },
  ]);
  const versions = async () =>
    (await world.almanac.db.row<{ n: number }>('select max(version) as n from rates'))?.n;
  // The tax that terms name is theirs, and no word of the choice for those that name none.
  const taxed = (await bring(SAMPLE.replace(/"rate": "20"/, '"rate": "17.5"'), true)).differences;
  expect(taxed.flatMap(({ members }) => members)).toEqual([
    { member: 'tax, rate', stored: '20', file: '17.5' },
  ]);
  await bring(changed, false);
  expect(await versions()).toBe(1);
  expect((await bring(changed, false, true)).changed.rates).toBe(1);
  expect(await versions()).toBe(2);
});

test('a discount is held against the file too: its value, its plans, and codes that it has not yet', async () => {
  const spring = async () =>
    (JSON.parse(await exported()) as Exported).discounts.find(({ value }) => value.name === 'Spring');
  const { value, ...of } = (await spring()) ?? { value: {} };
  const changed = (more: object) => JSON.stringify({ plans: [], discounts: [{ ...of, value, ...more }] });
  const asked = changed({ value: { ...value, off: '15', mostUses: 9 }, for: [], codes: ['SPRING', 'MARCH'] });
  expect((await bring(asked, true)).differences).toMatchObject([
    { what: 'Discount Spring', how: 'differs', members: [...'1234'].map(() => ({})) },
  ]);
  expect((await bring(asked, false)).changed).toEqual(NO_CHANGE);
  expect((await bring(asked, false, true)).changed).toEqual({ ...NO_CHANGE, discounts: 1 });
  expect(hows(await bring(asked, true))).toEqual(['same']);
  expect(await spring()).toMatchObject({
    ...{ for: [], codes: ['SPRING', 'MARCH'] },
    value: { off: '15', mostUses: 9 },
  });
  const { problems } = await bring(changed({ for: ['no-such-plan'] }), true, true);
  expect(problems).toEqual([{ line: 1, says: 'Spring: there is no plan "no-such-plan"' }]);
});

test('what is wrong is told by line, and nothing is changed', async () => {
  const before = await exportOffer(world.almanac);
  const wrong = SAMPLE.replace('"interval": "P1Y"', '"interval": "P0Y"');
  const { problems } = await bring(wrong, false, true);
  const line = wrong.slice(0, wrong.indexOf('P0Y')).split('\n').length;
  expect(problems).toMatchObject([{ line }]);
  expect(await exportOffer(world.almanac)).toEqual(before);
});

test('the schema of the file is published', async () => {
  const schema = z.toJSONSchema(planFileSchema, { io: 'input', unrepresentable: 'any' });
  const text = `${JSON.stringify({ ...schema, title: 'What is offered' }, null, 2)}\n`;
  await expect(text).toMatchFileSnapshot('../../docs/offer.schema.json');
});

test('what is archived stands in no file, and bringing one in leaves its prices as they are', async () => {
  const { db } = world.almanac;
  const archived = await db.rows<{ id: string }>(
    `update rates r set archived_on = '2027-01-04' from plans p
     where p.id = r.plan_id and p.key || '/' || r.key in ('apiary-ground/twice-a-month', 'hive-watch/yearly')
     returning r.id::text`,
  );
  const ids = archived.map(({ id }) => id);
  const priced = () =>
    db.row(
      `select (select count(*)::int from variants where prices ?| $ids) as variants,
         (select count(*)::int from rate_card_prices where rate_id::text = any($ids)) as cards`,
      { ids },
    );
  expect(await priced()).toEqual({ variants: 2, cards: 1 });
  const file = await exported();
  expect(file).not.toContain('"twice-a-month"');
  expect(hows(await bring(file, true, true))).toEqual(['same']);
  const otherwise = file
    .replaceAll('"each":"6.20"', '"each":"6.10"')
    .replace('Room for three', 'Room for four');
  expect((await bring(otherwise, false, true)).changed).toMatchObject({ variants: 1, rateCards: 1 });
  expect(await priced()).toEqual({ variants: 2, cards: 1 });
  await db.rows('update rates set archived_on = null where id = any($ids::bigint[])', { ids });
});

test('all of it goes into another business: pictures, documents, what is offered first, taxes, gateways', async () => {
  const picture = await takeUpload(world.almanac, 'picture', Buffer.from(DRAWING), 'hive.svg');
  const inText = await takeUpload(world.almanac, 'picture', Buffer.from(DRAWING), 'row.svg');
  const paper = await takeDocument(world.almanac, Buffer.from('%PDF-1.4 rules'), 'rules.pdf');
  const plan = await Plan.findOne({ where: { key: 'hive-watch' }, rejectOnEmpty: true });
  const [, yearly] = await Rate.findAll({ where: { planId: plan.id }, order: ['id'] });
  const [account] = await world.almanac.gateways.connected();
  await plan.update({
    description: `<p>Bees.</p><img src="/pictures/${inText.address}" alt="A row">`,
    picture: picture.id,
    documents: [{ upload: paper.id, name: 'Rules of the house' }],
    firstRate: yearly?.id ?? null,
  });
  await yearly?.update({
    options: { ...yearly.options, gateways: [account?.id ?? ''] },
    taxChoice: { kind: 'none' },
  });
  const file = await exported();

  const unknown = file
    .replace(`"${account?.name}"`, '"Nowhere"')
    .replace('"tax":"none"', '"tax":{"named":"Levy"}');
  const told = (await bring(unknown, false, true)).problems.map(({ says }) => says);
  expect(told).toEqual([expect.stringMatching(/^Hive Watch: .*"(Levy|Nowhere)"/)]);
  const harmful = { name: 'x', data: Buffer.from('<html><script>').toString('base64') };
  const withHarm = JSON.stringify({ plans: [], files: { ['0'.repeat(32)]: harmful } });
  expect((await bring(withHarm, false)).problems).toMatchObject([
    { says: expect.stringMatching(/cannot be read/) },
  ]);

  // The last of this file: from here on the models are the other's.
  const other = await World.begin(inject('databaseUrl'));
  try {
    const { problems } = await importOffer(other.almanac, { text: file, dryRun: false, update: false });
    expect(problems).toEqual([]);
    expect(JSON.stringify(await exportOffer(other.almanac))).toBe(file);
    const [shown] = (await listPlans(other.almanac, { search: 'Hive Watch' })) as [PlanView];
    expect(shown.rates[0]).toMatchObject({ name: yearly?.name, taxChoice: { kind: 'none' } });
    expect(shown.pictureAt).toBe(`/pictures/${picture.address}`);
    expect(shown.documentsAt).toEqual([`/documents/${paper.address}`]);
  } finally {
    await other.end();
  }
});
