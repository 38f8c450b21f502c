import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { request } from 'undici';
import { startCluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { printDocument } from '../../server/documents/print.ts';
import { printedLook, readInvoices } from '../../server/documents/readDocuments.ts';
import { ublOf } from '../../server/documents/ubl.ts';
import { asStaff } from './asStaff.ts';
import { peakMb } from './BenchedBusiness.ts';
import { benchedHistory } from './BenchedHistory.ts';
import type { BenchOptions } from './options.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
const PORT = 26_994;
const TIMES = 40;
const IN_ZIP = 10_000;

/** `almanac bench documents`: how long a page of PDF takes, its UBL, and all documents of a month as one file. */
export async function benchDocuments({ quick = false, json = false }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  mkdirSync(FOLDER, { recursive: true });
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT);
  try {
    const bench = await benchedHistory(cluster, FOLDER, 10_000, PORT + 1, say);
    try {
      const { almanac } = bench;
      const ids = await almanac.db.rows<{ id: string }>('select id::text from invoices order by id limit 60');
      const look = await printedLook(almanac);
      const business = { legalName: 'A business', taxNumber: 'GB123456789', country: 'GB' };
      const documents = (
        await readInvoices(
          almanac,
          ids.map(({ id }) => id),
        )
      ).map((document) => ({ ...document, parties: { ...document.parties, ...business } }));
      const [first] = documents;
      if (!first) throw new Error('There is no invoice to print.');
      // The thread is begun, and the fonts are read, by the first.
      await printDocument(first, look);
      const pages: number[] = [];
      for (const document of documents.slice(0, TIMES)) {
        const began = performance.now();
        await printDocument(document, look);
        pages.push(performance.now() - began);
      }
      const greek = { ...first, parties: { ...first.parties, note: 'Ευχαριστούμε. Спасибо.' } };
      await printDocument(greek, look);
      const began = performance.now();
      await printDocument(greek, look);
      const greekMs = performance.now() - began;
      const ublBegan = performance.now();
      for (const document of documents) ublOf(document);
      const ublMs = (performance.now() - ublBegan) / documents.length;
      const server = await bench.startServer();
      const zip = await zipped(bench, quick ? 1_000 : IN_ZIP);
      const figures = {
        pageMs: round(middle(pages)),
        pageP95Ms: round(pages.toSorted((a, b) => a - b)[Math.floor(TIMES * 0.95)] ?? 0),
        pageInGreekMs: round(greekMs),
        ublMs: round(ublMs),
        ...zip,
        serverPeakMb: peakMb(server),
      };
      say(
        `one page of PDF          ${figures.pageMs} ms, 95 of 100 under ${figures.pageP95Ms} ms   (asked: under 100)`,
      );
      say(`one page with Greek      ${figures.pageInGreekMs} ms`);
      say(`UBL of an invoice        ${figures.ublMs} ms`);
      say(
        `${figures.zipDocuments} as one file     ${figures.zipSeconds} s, ${figures.zipMb} MB, ${round(figures.zipDocuments / figures.zipSeconds)} a second`,
      );
      say(`server                   ${figures.serverPeakMb} MB`);
      if (json) console.log(JSON.stringify(figures));
    } finally {
      await bench.end();
    }
  } finally {
    cluster.stop();
    rmSync(join(FOLDER, 'documents'), { recursive: true, force: true });
  }
}

/** Asks for so many documents of the history as one file, from the first day on. */
async function zipped(bench: Parameters<typeof asStaff>[0], most: number) {
  const { name, value } = await asStaff(bench);
  const day = await bench.almanac.db.row<{ until: string }>(
    `select max(issued_on)::text as until from (select issued_on from invoices order by issued_on, id limit $most) first_ones`,
    { most },
  );
  const origin = bench.environment.ALMANAC_URL ?? '';
  const count = await bench.almanac.db.row<{ n: number }>(
    'select count(*)::int as n from invoices where issued_on <= $until',
    { until: day?.until ?? '' },
  );
  const began = performance.now();
  const { statusCode, body } = await request(
    `${origin}/api/documents.zip?from=2020-01-01&until=${day?.until}`,
    {
      headers: { cookie: `${name}=${value}`, 'X-Almanac': '1' },
      bodyTimeout: 0,
      headersTimeout: 0,
    },
  );
  let bytes = 0;
  for await (const part of body) bytes += (part as Buffer).length;
  if (statusCode !== 200) throw new Error(`The file was answered ${statusCode}.`);
  const seconds = (performance.now() - began) / 1000;
  return { zipDocuments: count?.n ?? 0, zipSeconds: round(seconds), zipMb: round(bytes / 1e6) };
}

const round = (number: number) => Math.round(number * 10) / 10;
const middle = (values: readonly number[]) =>
  values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
