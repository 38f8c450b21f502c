import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { readAnew, readOnce } from '../db/readOnce.ts';
import { ConflictingEdit } from '../http/problem.ts';
import type { SectionName, SectionValue, SectionView } from './messages.ts';
import { KEEPERS, type SectionKeeper } from './sections.ts';

interface Row {
  readonly value: Record<string, unknown>;
  readonly version: number;
  readonly changed_by: string;
  readonly changed_at: Date;
}

/** A section as it is stored; in a transaction all of them are read at once. */
async function rowOf({ db }: Almanac, name: SectionName, within?: Transaction): Promise<Row | null> {
  if (!within) return db.row<Row>('select * from settings where section = $name', { name });
  const all = await readOnce(within, 'the settings', () =>
    db.rows<Row & { section: string }>('select * from settings', {}, within),
  );
  return all.find(({ section }) => section === name) ?? null;
}

/** A section of Setup with its version; one that nobody has set has version 0 and sensible values. */
export async function readSection<Name extends SectionName>(
  almanac: Almanac,
  name: Name,
  within?: Transaction,
): Promise<SectionView<Name>> {
  const row = await rowOf(almanac, name, within);
  const keeper = KEEPERS[name] as SectionKeeper<Name>;
  return {
    value: await keeper.read(almanac, (row?.value ?? null) as Partial<SectionValue<Name>> | null, within),
    version: row?.version ?? 0,
    changedBy: row?.changed_by ?? '',
    changedAt: row?.changed_at.toISOString() ?? '',
  };
}

/** The value of a section alone. */
export async function settingsOf<Name extends SectionName>(
  almanac: Almanac,
  name: Name,
  within?: Transaction,
): Promise<SectionValue<Name>> {
  return readOnce(within, `setting ${name}`, async () => (await readSection(almanac, name, within)).value);
}

/**
 * Changes a section that was read at a version.
 * @throws {@link ConflictingEdit} where somebody has changed it since: with both values, nothing is written
 */
export async function changeSection<Name extends SectionName>(
  almanac: Almanac,
  name: Name,
  edit: { readonly version: number; readonly value: SectionValue<Name> },
): Promise<SectionView<Name>> {
  await almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      `insert into settings (section, value, version) values ($name, '{}', 0) on conflict do nothing`,
      { name },
      within,
    );
    await almanac.db.rows('select 1 from settings where section = $name for update', { name }, within);
    // Whoever changed it while we waited is seen.
    readAnew(within);
    const before = await readSection(almanac, name, within);
    if (before.version !== edit.version) throw new ConflictingEdit(before);
    const keeper = KEEPERS[name] as SectionKeeper<Name>;
    const stored = (await keeper.change?.(almanac, edit.value, before.value, within)) ?? edit.value;
    await almanac.db.rows(
      `update settings set value = $value::jsonb, version = version + 1, changed_at = now(), changed_by = $who
       where section = $name`,
      { name, value: JSON.stringify(stored), who: askerNow().who },
      within,
    );
    readAnew(within);
    const after = await settingsOf(almanac, name, within);
    await recordDone(
      almanac,
      { did: `changed ${SAY_SECTION[name]}`, ...differenceOf(before.value, after) },
      within,
    );
  });
  return readSection(almanac, name);
}

const SAY_SECTION: Readonly<Record<SectionName, string>> = {
  business: 'the business',
  branding: 'the branding',
  invoicing: 'the invoices',
  customers: 'what customers are asked',
  mail: 'the mail settings',
  recovery: 'the recovery',
  calendar: 'the calendar',
  taxing: 'the default tax',
  security: 'how staff are kept safe',
  sites: 'the sites that show sign-up pages',
};

/** The members in which two values differ, before and after. */
export function differenceOf(before: object, after: object): { before: object; after: object } {
  const names = Object.keys({ ...before, ...after });
  const of = (value: object, name: string) => (value as Record<string, unknown>)[name];
  const differ = names.filter((name) => JSON.stringify(of(before, name)) !== JSON.stringify(of(after, name)));
  const pick = (value: object) => Object.fromEntries(differ.map((name) => [name, of(value, name)]));
  return { before: pick(before), after: pick(after) };
}
