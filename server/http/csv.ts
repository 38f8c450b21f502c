import { once } from 'node:events';
import { pipeline } from 'node:stream/promises';
import { stringify } from 'csv-stringify';
import type { Response } from 'express';
import { CSV_MANNER } from '../../core/typed/csvManner.ts';

/** The columns of a file by their headings, each with what stands in it; null is an empty cell. */
export type CsvColumns<Row> = Readonly<Record<string, (row: Row) => string | number | null>>;

/**
 * Sends rows as CSV as they come, in the manner of {@link CSV_MANNER}.
 * @throws what the rows throw; before the first of them nothing is sent, so that it can be answered as a problem
 */
export async function sendCsv<Row>(
  response: Response,
  name: string,
  columns: CsvColumns<Row>,
  batches: AsyncIterable<readonly Row[]>,
  signal: AbortSignal,
): Promise<void> {
  const rows = batches[Symbol.asyncIterator]();
  let next = await rows.next();
  response.type('text/csv').attachment(`${name}.csv`);
  const csv = stringify({ ...CSV_MANNER, header: true, columns: Object.keys(columns) });
  const sent = pipeline(csv, response, { signal });
  sent.catch(() => undefined); // It is waited for below.
  try {
    for (; !next.done; next = await rows.next())
      for (const row of next.value) {
        signal.throwIfAborted();
        if (!csv.write(Object.values(columns).map((cell) => cell(row)))) await once(csv, 'drain', { signal });
      }
    csv.end();
  } catch (error) {
    // A file that breaks off is seen to be broken.
    csv.destroy(error as Error);
    throw error;
  }
  await sent;
}
