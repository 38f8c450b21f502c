import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parse } from 'csv-parse';
import type { Almanac } from '../almanac.ts';
import { inTheNameOf, type Asker } from '../audit/asker.ts';
import { AccountTrouble } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { openCsv } from './csvText.ts';
import type { ImportFile } from './importFile.ts';
import { importFiles } from './importFiles.ts';
import { bytesOf, endImport, noteProgress, storedImport } from './imports.sql.ts';
import type { Mapping } from './mappingMessages.ts';

interface ImportWork {
  readonly id: string;
  readonly mapping: Mapping;
  readonly dryRun: boolean;
  readonly asker: Omit<Asker, 'entries'>;
}

/** Checks a file, or brings it in, all or nothing: that it was, is stored with it. */
export async function workImport(
  almanac: Almanac,
  { id, mapping, dryRun, asker }: ImportWork,
): Promise<void> {
  const { name } = await requireImport(almanac, id);
  const bytes = await requireBytes(almanac, id);
  const bad: [number, string][] = [];
  let told: Promise<void> = Promise.resolve();
  const work = () =>
    withFile(bytes, (path) =>
      importFiles(almanac, [{ name: name.endsWith('.csv') ? name : `${name}.csv`, path, mapping }], {
        dryRun,
        badLines: (lines) => bad.push(...lines),
        lastly: (report, within) =>
          endImport(almanac, id, { state: 'done', report: { ...report, problems: [] } }, within),
        progress: (done, share) => {
          told = told.then(() => noteProgress(almanac, id, done, share)).catch(() => undefined);
        },
      }),
    );
  try {
    const report = await inTheNameOf(asker, work);
    await told;
    if (dryRun || report.problems.length > 0) await endImport(almanac, id, { state: 'checked', report, bad });
  } catch (error) {
    await told;
    await endImport(almanac, id, { state: 'broken', report: null, says: sayTrouble(error) });
  }
}

/** An import, or a refusal where there is none. */
export async function requireImport(almanac: Almanac, id: string) {
  const found = await storedImport(almanac, id);
  if (!found) throw new RefusedCommand(404, 'There is no such import.');
  return found;
}

/** The bytes of a file that was not brought in yet, or a refusal. */
export async function requireBytes(almanac: Almanac, id: string): Promise<Buffer> {
  const bytes = await bytesOf(almanac, id);
  if (bytes === null) throw new RefusedCommand(410, 'This file was brought in, and is not kept.');
  return bytes;
}

/** Why an import was broken off, in words. */
export function sayTrouble(error: unknown): string {
  if (error instanceof AccountTrouble)
    return 'The gateway does not answer, so that cards cannot be looked up. Nothing is stored: start it again later.';
  if (error instanceof RefusedCommand) return error.message;
  return 'It was broken off by a fault of ours. Nothing of it is stored: start it again.';
}

/** The rows of a file as they stand in it, its headings among them, each with the last line that it stands on. */
export async function* cellsOf(
  file: ImportFile,
): AsyncGenerator<{ readonly record: string[]; readonly lines: number }> {
  const { stream, delimiter } = await openCsv(file);
  const parser = stream.pipe(
    parse({
      bom: true,
      delimiter,
      info: true,
      skip_empty_lines: true,
      relax_column_count: true,
      max_record_size: 100_000,
    }),
  );
  for await (const { record, info } of parser as AsyncIterable<{ record: string[]; info: { lines: number } }>)
    yield { record, lines: info.lines };
}

/** Does something with bytes that lie in a file for as long as it takes. */
export async function withFile<T>(bytes: Buffer, work: (path: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'almanac-import-'));
  try {
    const path = join(folder, 'file.csv');
    await writeFile(path, bytes);
    return await work(path);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
