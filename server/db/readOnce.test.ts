import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { toDay } from '../../core/dates/day.ts';
import { statementsOf } from '../../testing/statementsOf.ts';
import { World } from '../../testing/world.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { changeSection, readSection, settingsOf } from '../settings/settings.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { makeTax } from '../taxes/taxes.ts';
import { readAnew, readOnce } from './readOnce.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
});
afterAll(() => world.end());

test('a transaction reads settings, law and day once, however many of its parts ask', async () => {
  const { almanac } = world;
  const asked = await statementsOf(almanac.db, () =>
    almanac.db.transaction(async (within) => {
      for (let n = 0; n < 5; n += 1) {
        await Promise.all([
          settingsOf(almanac, 'customers', within),
          settingsOf(almanac, 'calendar', within),
        ]);
        await loadLaw(almanac, within);
        await businessDateOf(almanac, within);
      }
    }),
  );
  // All settings in one, taxes, holidays, and the business.
  expect(asked.filter((statement) => /select/i.test(statement)).length).toBe(4);
});

test('what a transaction has changed itself, and what others changed before it, is seen', async () => {
  const { almanac } = world;
  const { value, version } = await readSection(almanac, 'customers');
  await changeSection(almanac, 'customers', { version, value: { ...value, serves: ['GB'] } });
  expect((await settingsOf(almanac, 'customers')).serves).toEqual(['GB']);
  // Whoever waited for another who changed the same sees their change, and is refused.
  const stale = changeSection(almanac, 'customers', { version, value: { ...value, serves: ['FR'] } });
  await expect(stale).rejects.toThrow(/has changed this since you opened it/);
  // A tax that is made changes the law for whatever the same transaction foresees at its end.
  const rate = {
    percent: '20',
    mode: 'exclusive',
    country: null,
    region: '',
    validFrom: '2027-01-01',
    validTo: null,
  } as const;
  await makeTax(almanac, { name: 'VAT', rates: [rate] });
  const law = await almanac.db.transaction(async (within) => {
    await loadLaw(almanac, within);
    await almanac.db.rows(`update tax_rates set percent = 25`, {}, within);
    readAnew(within);
    return loadLaw(almanac, within);
  });
  const [tax] = await world.almanac.db.rows<{ id: string }>('select id::text from taxes');
  const at = { country: 'GB', region: '', tax_exempt: '' };
  expect(law.taxOn(tax?.id ?? '', at, toDay('2027-02-01'))?.rate).toBe(250_000n);
});

test('two transactions know nothing of each other’s reads, and outside of them nothing is kept', async () => {
  const { db } = world.almanac;
  let reads = 0;
  const read = () => Promise.resolve((reads += 1));
  const one = await db.transaction(async (within) => [
    await readOnce(within, 'n', read),
    await readOnce(within, 'n', read),
    await readOnce(within, 'm', read),
  ]);
  expect(one).toEqual([1, 1, 2]);
  expect(await db.transaction((within) => readOnce(within, 'n', read))).toBe(3);
  expect([await readOnce(undefined, 'n', read), await readOnce(undefined, 'n', read)]).toEqual([4, 5]);
});
