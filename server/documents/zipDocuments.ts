import type { Response } from 'express';
import { ZipArchive } from 'archiver';
import pMap from 'p-map';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { fileNameOf } from './documentOf.ts';
import { printDocument } from './print.ts';
import { printedLook, readCreditNotes, readInvoices } from './readDocuments.ts';

/** So many documents are read, printed and packed at a time: memory is the same however many there are. */
const AT_ONCE = 50;
/** Printed side by side. */
const LANES = 4;
/** So many documents are packed into one file at most. */
export const MOST_IN_ZIP = 20_000;

/** What is to be packed: the days of issue, both inclusive. */
export interface ZipAsked {
  readonly from: string;
  readonly until: string;
}

/** How many documents were issued in some days. */
export async function countDocuments({ db }: Almanac, { from, until }: ZipAsked): Promise<number> {
  const row = await db.row<{ n: number }>(
    `select (select count(*) from invoices where issued_on between $from and $until)::int
       + (select count(*) from credit_notes where issued_on between $from and $until)::int as n`,
    { from, until },
  );
  return row?.n ?? 0;
}

/**
 * Sends all invoices and credit notes of some days as one ZIP of PDFs. They are printed in threads of their own and sent as they
 * are printed; it ends where the browser goes.
 */
export async function zipDocuments(
  almanac: Almanac,
  asked: ZipAsked,
  response: Response,
  signal: AbortSignal,
): Promise<void> {
  const count = await countDocuments(almanac, asked);
  if (count === 0) throw new RefusedCommand(404, 'Nothing was issued in these days.');
  if (count > MOST_IN_ZIP)
    throw new RefusedCommand(422, `These are ${count} documents: choose fewer days, at most ${MOST_IN_ZIP}.`);
  const look = await printedLook(almanac);
  response.attachment(`documents ${asked.from} to ${asked.until}.zip`);
  response.set('X-Documents', String(count));
  // PDFs are packed already: they are put together as they are.
  const zip = new ZipArchive({ store: true });
  const failed = new Promise<never>((_, reject) => {
    zip.on('error', reject);
    signal.addEventListener('abort', () => reject(signal.reason as Error));
  });
  failed.catch(() => undefined);
  zip.pipe(response);
  const add = async (kind: 'invoices' | 'credit_notes') => {
    for (let after = '0'; ;) {
      signal.throwIfAborted();
      const ids = await idsAfter(almanac, kind, asked, after);
      const last = ids.at(-1);
      if (last === undefined) return;
      after = last;
      const documents = await (kind === 'invoices'
        ? readInvoices(almanac, ids)
        : readCreditNotes(almanac, ids));
      const printed = await pMap(
        documents,
        async (document) => ({
          name: `${fileNameOf(document)}.pdf`,
          bytes: await printDocument(document, look),
        }),
        { concurrency: LANES, signal },
      );
      for (const { name, bytes } of printed) {
        zip.append(bytes, { name });
        // What is packed is on its way before more is printed.
        if (response.writableNeedDrain) await Promise.race([drained(response), failed]);
      }
    }
  };
  await Promise.race([add('invoices').then(() => add('credit_notes')), failed]);
  await Promise.race([zip.finalize(), failed]);
}

const drained = (response: Response) =>
  new Promise<void>((resolve) => {
    response.once('drain', resolve);
    response.once('close', resolve);
  });

async function idsAfter(
  { db }: Almanac,
  table: 'invoices' | 'credit_notes',
  { from, until }: ZipAsked,
  after: string,
): Promise<string[]> {
  const rows = await db.rows<{ id: string }>(
    `select id::text from ${table} where issued_on between $from and $until and id > $after order by ${table}.id limit ${AT_ONCE}`,
    { from, until, after },
  );
  return rows.map(({ id }) => id);
}
