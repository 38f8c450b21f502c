import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Mapping } from './mappingMessages.ts';
import type { ImportRow, ImportState, ImportView } from './messages.ts';

/** An import that has said nothing for so many seconds is not worked on any more. */
const SILENT_SECONDS = 60;

/** Its state as it is: one whose worker is gone is broken off. */
const STATE = `case when state in ('checking', 'importing') and beat_at < now() - interval '${SILENT_SECONDS} seconds'
  then 'broken' else state end`;

const COLUMNS = `id::text, name, header, sample, mapping, ${STATE} as state, done, share, report,
  jsonb_array_length(bad) as "badRows", says, made_by as "madeBy"`;

export type StoredImport = Omit<ImportView, 'mapping' | 'isRemembered'> & {
  readonly mapping: Mapping | null;
};

/** Forgets files of longer ago that were never brought in: they hold who people are. */
export const forgetOldFiles = ({ db }: Almanac): Promise<unknown> =>
  db.rows(`delete from imports where state <> 'done' and made_at < now() - interval '30 days'`);

/** Stores a file as it came. */
export async function insertImport(
  { db }: Almanac,
  file: {
    readonly name: string;
    readonly bytes: Buffer;
    readonly header: readonly string[];
    readonly sample: readonly (readonly string[])[];
  },
  madeBy: string,
): Promise<string> {
  const row = await db.row<{ id: string }>(
    `insert into imports (name, bytes, header, sample, made_by)
     values ($name, decode($bytes, 'base64'), $header::jsonb, $sample::jsonb, $madeBy) returning id::text`,
    {
      ...{ name: file.name, madeBy, bytes: file.bytes.toString('base64') },
      ...{ header: JSON.stringify(file.header), sample: JSON.stringify(file.sample) },
    },
  );
  return row?.id ?? '';
}

/** One import without its file. */
export const storedImport = ({ db }: Almanac, id: string): Promise<StoredImport | null> =>
  db.row(`select ${COLUMNS} from imports where id = $id`, { id });

/** The bytes of a file; null once they are gone. */
export async function bytesOf({ db }: Almanac, id: string): Promise<Buffer | null> {
  const row = await db.row<{ bytes: Buffer | null }>('select bytes from imports where id = $id', { id });
  return row?.bytes ?? null;
}

/** The last imports, the newest first. */
export const lastImports = ({ db }: Almanac): Promise<ImportRow[]> =>
  db.rows(
    `select id::text, name, ${STATE} as state, made_by as "madeBy", made_at::text as "madeAt",
       case when state = 'done' then coalesce((report #>> '{added,customers}')::int, 0) else 0 end as customers
     from imports order by id desc limit 20`,
  );

/** The mapping of the last file with the same headings that was brought in. */
export async function rememberedMapping({ db }: Almanac, header: readonly string[]): Promise<Mapping | null> {
  const row = await db.row<{ mapping: Mapping }>(
    `select mapping from imports where state = 'done' and mapping is not null and header = $header::jsonb order by id desc limit 1`,
    { header: JSON.stringify(header) },
  );
  return row?.mapping ?? null;
}

/** Begins a check or an import, unless one is under way or it was brought in already; gives whether it was begun. */
export async function beginImport(
  { db }: Almanac,
  id: string,
  to: 'checking' | 'importing',
  mapping: Mapping,
): Promise<boolean> {
  const begun = await db.row(
    `update imports set state = $to, mapping = $mapping::jsonb, done = 0, share = 0, report = null, bad = '[]', says = '', beat_at = now()
     where id = $id and bytes is not null and ${STATE} not in ('checking', 'importing', 'done')
       and ($to = 'checking' or (state = 'checked' and mapping = $mapping::jsonb)) returning id`,
    { id, to, mapping: JSON.stringify(mapping) },
  );
  return begun !== null;
}

/** Says how far it is, and that it is worked on. */
export async function noteProgress({ db }: Almanac, id: string, done: number, share: number): Promise<void> {
  await db.rows('update imports set done = $done, share = $share, beat_at = now() where id = $id', {
    ...{ id, done, share: String(share) },
  });
}

/** Writes down what came of it, for good where it was brought in: that gives up its file. */
export async function endImport(
  { db }: Almanac,
  id: string,
  ended: {
    readonly state: ImportState;
    readonly report: object | null;
    readonly bad?: readonly (readonly [line: number, says: string])[];
    readonly says?: string;
  },
  within?: Transaction,
): Promise<void> {
  await db.rows(
    `update imports set state = $state, report = $report::jsonb, bad = $bad::jsonb, says = $says, beat_at = now(),
       bytes = case when $state = 'done' then null else bytes end
     where id = $id and (state <> 'done' or $state = 'done')`,
    {
      ...{ id, state: ended.state, says: ended.says ?? '' },
      report: ended.report && JSON.stringify(ended.report),
      bad: JSON.stringify(ended.bad ?? []),
    },
    within,
  );
}

/** The lines that could not be brought in, with what is wrong with each. */
export async function badLinesOf({ db }: Almanac, id: string): Promise<Map<number, string>> {
  const row = await db.row<{ bad: [number, string][] }>('select bad from imports where id = $id', { id });
  return new Map(row?.bad ?? []);
}

/** Forgets a file, and that it was there; one under way stays. Gives whether it was forgotten. */
export async function deleteImport({ db }: Almanac, id: string): Promise<boolean> {
  const gone = await db.row(
    `delete from imports where id = $id and ${STATE} not in ('checking', 'importing', 'done') returning id`,
    { id },
  );
  return gone !== null;
}
