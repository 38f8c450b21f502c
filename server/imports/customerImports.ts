import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { localeOf } from '../../core/typed/manner.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { workBeside } from '../beside/readBeside.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { settingsOf } from '../settings/settings.ts';
import { readCustomers } from './customerFile.ts';
import type { ImportFile } from './importFile.ts';
import {
  badLinesOf,
  beginImport,
  deleteImport,
  endImport,
  forgetOldFiles,
  insertImport,
  rememberedMapping,
} from './imports.sql.ts';
import { cellsOf, requireBytes, requireImport, sayTrouble, withFile } from './importWork.ts';
import { calledField, faultsOfMapping, guessMapping, ownFieldName, type Mapping } from './mappingMessages.ts';
import type { ImportView, PreviewRow } from './messages.ts';

/** So many rows of a file are shown as they stand in it, and as they would be understood. */
const SHOWN = 6;
const MOST_COLUMNS = 200;

/** Takes a file of customers from a spreadsheet: only its head is looked at now. */
export async function takeImport(almanac: Almanac, name: string, body: unknown): Promise<{ id: string }> {
  if (!Buffer.isBuffer(body) || body.length === 0)
    throw new RefusedCommand(422, 'Choose a file that holds something.');
  const [header = [], ...sample] = await withFile(body, (path) => headOf({ name, path }));
  if (header.length < 2)
    throw new RefusedCommand(
      422,
      'This is no list of customers: its first line names fewer than two columns. Save the sheet as CSV and choose that file.',
    );
  if (header.length > MOST_COLUMNS)
    throw new RefusedCommand(422, `At most ${MOST_COLUMNS} columns are read.`);
  await forgetOldFiles(almanac);
  return { id: await insertImport(almanac, { name, bytes: body, header, sample }, askerNow().who) };
}

/** One import: how its columns are understood, how far it is, and what came of it. */
export async function readImport(almanac: Almanac, id: string): Promise<ImportView> {
  const { mapping, ...stored } = await requireImport(almanac, id);
  const remembered = mapping === null ? await rememberedMapping(almanac, stored.header) : null;
  const own = await ownLabels(almanac);
  const broken = stored.state === 'broken' && stored.says === '';
  return {
    ...stored,
    mapping: mapping ?? remembered ?? guessMapping(stored.header, own),
    ownFields: own,
    isRemembered: remembered !== null,
    says: broken ? 'It was broken off before its end. Nothing of it is stored: start it again.' : stored.says,
  };
}

/** The first rows as they would be understood by a mapping, or what is wrong with each. Nothing is stored. */
export async function previewImport(almanac: Almanac, id: string, mapping: Mapping): Promise<PreviewRow[]> {
  const { name, header } = await requireImport(almanac, id);
  requireGoodMapping(mapping, header, await ownLabels(almanac));
  const bytes = await requireBytes(almanac, id);
  const { language, country } = await settingsOf(almanac, 'business');
  const { homeCurrency } = await Business.findOne({ rejectOnEmpty: true });
  const manner = { locale: localeOf(language, country), homeCurrency, today: await businessDateOf(almanac) };
  return withFile(bytes, async (path) => {
    const wrong = new Map<number, string>();
    const tell = ({ line, says }: { line: number; says: string }) => {
      const before = wrong.get(line);
      wrong.set(line, before === undefined ? says : `${before}; ${says}`);
    };
    for await (const { rows } of readCustomers({ name, path, mapping }, tell, manner)) {
      const good = rows.slice(0, SHOWN).map(({ line, own, ...row }): PreviewRow => ({
        line,
        row: { ...row, ...Object.fromEntries(own.map(({ label, value }) => [ownFieldName(label), value])) },
      }));
      const bad = [...wrong].map(([line, says]): PreviewRow => ({ line, says }));
      return [...good, ...bad].toSorted((a, b) => a.line - b.line).slice(0, SHOWN);
    }
    return [];
  });
}

/**
 * Begins to check a file, or to bring in one that was checked by the same mapping and found good. It goes on by itself in
 * a thread of its own, whoever closes their window.
 */
export async function startImport(
  almanac: Almanac,
  id: string,
  to: 'checking' | 'importing',
  mapping: Mapping,
): Promise<void> {
  const { header, state, report } = await requireImport(almanac, id);
  requireGoodMapping(mapping, header, await ownLabels(almanac));
  if (to === 'importing' && (report === null || report.problems.length > 0))
    throw new RefusedCommand(409, 'Check the file first: it is brought in once nothing is wrong with it.');
  if (!(await beginImport(almanac, id, to, mapping)))
    throw new RefusedCommand(
      409,
      state === 'done'
        ? 'This file was brought in already.'
        : 'It is under way already, or was checked otherwise: check it again.',
    );
  const { personId, who, via, address, agent } = askerNow();
  const asker = { personId, who, via, address, agent };
  void workBeside(almanac, new AbortController().signal, 'workImport', {
    id,
    mapping,
    dryRun: to === 'checking',
    asker,
  }).catch((error: unknown) =>
    endImport(almanac, id, { state: 'broken', report: null, says: sayTrouble(error) }).catch(() => undefined),
  );
}

/** The headings of a file, and one more for what is wrong, each of them once. */
export async function headingsOfBad(almanac: Almanac, id: string): Promise<string[]> {
  const { header } = await requireImport(almanac, id);
  return [...header, 'what is wrong'].map((heading, i, all) =>
    all.indexOf(heading) === i ? heading : `${heading} (${i + 1})`,
  );
}

/** The rows that are to be mended, as they stand in the file, each with what is wrong with it in a last cell. */
export async function* badRowsOf(almanac: Almanac, id: string): AsyncGenerator<string[][]> {
  const { name, header } = await requireImport(almanac, id);
  const bad = await badLinesOf(almanac, id);
  const bytes = await requireBytes(almanac, id);
  const folder = await mkdtemp(join(tmpdir(), 'almanac-import-'));
  try {
    const path = join(folder, 'file.csv');
    await writeFile(path, bytes);
    for await (const { record, lines } of cellsOf({ name, path })) {
      const says = bad.get(lines);
      if (says !== undefined) yield [[...header.map((_, i) => record[i] ?? ''), says]];
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Forgets a file that was not brought in. */
export async function forgetImport(almanac: Almanac, id: string): Promise<void> {
  await requireImport(almanac, id);
  if (!(await deleteImport(almanac, id)))
    throw new RefusedCommand(409, 'It is under way, or was brought in: that stays written down.');
}

/** What the fields of the business's own are called. */
async function ownLabels(almanac: Almanac): Promise<string[]> {
  const { fields } = await settingsOf(almanac, 'customers');
  return fields.map(({ label }) => label);
}

function requireGoodMapping(mapping: Mapping, header: readonly string[], own: readonly string[]): void {
  const [fault] = faultsOfMapping(mapping, header, own);
  if (fault)
    throw new RefusedCommand(422, `${calledField(fault.field)}: ${fault.says}`, `/mapping/${fault.field}`);
}

/** The first rows of a file, its headings first. */
async function headOf(file: ImportFile): Promise<string[][]> {
  const rows: string[][] = [];
  try {
    for await (const { record } of cellsOf(file)) {
      rows.push(record.map((cell) => cell.slice(0, 200)));
      if (rows.length > SHOWN) break;
    }
  } catch (error) {
    throw new RefusedCommand(422, `This file cannot be read as CSV: ${(error as Error).message}`);
  }
  return rows;
}
