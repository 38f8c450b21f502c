import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { z } from 'zod';
import { World } from '../../testing/world.ts';
import { makeCodes, makeDiscount } from '../discounts/discounts.ts';
import { exportOffer, importOffer } from './offerFile.ts';
import { planFileSchema } from './planFile.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

const SAMPLE = readFileSync(join(import.meta.dirname, '..', '..', 'demo', 'plans.json'), 'utf8');
const bring = (text: string, dryRun: boolean, update = false) =>
  importOffer(world.almanac, { text, dryRun, update });
const hows = (found: Awaited<ReturnType<typeof bring>>) => [
  ...new Set(found.differences.map(({ how }) => how)),
];

test('what is exported is what was imported, and brought in again changes nothing', async () => {
  expect(hows(await bring(SAMPLE, true))).toEqual(['new plan', 'new variant', 'new rate card']);
  await bring(SAMPLE, false);
  const { id } = await makeDiscount(world.almanac, {
    name: 'Spring',
    as: 'percent',
    off: '10',
    currency: null,
    payments: null,
    appliesTo: 'all',
    plans: ['1'],
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
  expect(again.changed).toEqual({ rates: 0, plans: 0, variants: 0, rateCards: 0 });
});

test('variants, rate cards and what a plan says are held against the file by member, and made what it says', async () => {
  const changed = SAMPLE.replace('"Room for three hives."', '"Room for four hives."')
    .replace('"unit": "6.20"', '"unit": "6.00"')
    .replace('"label": "Gate code"', '"label": "Code of the gate"');
  const would = await bring(changed, true, true);
  expect(would.problems).toEqual([]);
  expect(would.differences.filter(({ how }) => how === 'differs')).toMatchObject([
    { what: 'Hive Watch', members: [{ member: 'asks' }] },
    { what: 'Apiary Ground, variant Half plot', members: [{ member: 'says' }] },
    { what: 'Rate card Allotment societies', members: [{ member: 'prices' }] },
  ]);
  expect((await bring(changed, false)).changed).toEqual({ rates: 0, plans: 0, variants: 0, rateCards: 0 });
  expect((await bring(changed, false, true)).changed).toEqual({
    rates: 0,
    plans: 1,
    variants: 1,
    rateCards: 1,
  });
  expect(hows(await bring(changed, true))).toEqual(['same']);
  await bring(SAMPLE, false, true);
});

test('a difference is shown by member; it is left, or saved as a new version where that is asked for', async () => {
  const changed = SAMPLE.replace('"amount": "92.00"', '"amount": "95.00"');
  const would = await bring(changed, true);
  expect(would.differences.filter(({ how }) => how === 'differs')).toMatchObject([
    { what: 'Hive Watch, Yearly, per hive', members: [{ member: 'lines' }] },
  ]);
  const versions = async () =>
    (await world.almanac.db.row<{ n: number }>('select max(version) as n from rates'))?.n;
  await bring(changed, false);
  expect(await versions()).toBe(1);
  expect((await bring(changed, false, true)).changed.rates).toBe(1);
  expect(await versions()).toBe(2);
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
