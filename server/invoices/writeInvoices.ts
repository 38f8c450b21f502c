import { createHash } from 'node:crypto';
import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import type { PaymentKind } from '../../core/listing/payment.ts';
import type { Almanac } from '../almanac.ts';
import { invoiceIssued } from '../books/entries.ts';
import { JOURNAL, readyToPost } from '../books/post.ts';
import type { Bound, Database } from '../db/database.ts';
import { unnested } from '../db/unnested.ts';
import { DRAWN_UP, drawUp, type InvoiceToWrite } from './drawUp.ts';

/** An invoice that was issued, as far as a letter tells of it. */
export interface WrittenInvoice {
  readonly id: string;
  /** With the prefix of its series. */
  readonly number: string;
  readonly kind: PaymentKind;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly dueOn: string;
  /** What is to be paid of it, in minor units. */
  readonly due: bigint;
}

/** Invoices that only lack their numbers. */
export interface DrawnUpInvoices {
  readonly invoices: readonly InvoiceToWrite[];
  readonly rows: readonly ReturnType<typeof drawUp>[];
  /** The parties that no invoice has had yet, by their hash. */
  readonly newParties: ReadonlyMap<string, string>;
  readonly statement: string;
  readonly bound: Readonly<Record<string, Bound>>;
}

/**
 * Draws invoices up, with their entries in the books, so that {@link writeInvoices} has nothing left to compute: whoever
 * waits for numbers waits for one statement.
 */
export async function drawUpInvoices(
  almanac: Almanac,
  invoices: readonly InvoiceToWrite[],
  businessDate: string,
  within: Transaction,
): Promise<DrawnUpInvoices> {
  const rows = invoices.map((invoice) => drawUp(invoice, businessDate));
  const parties = invoices.map(({ parties }) => JSON.stringify(parties));
  const hashes = hashesOf(parties);
  const drawn = unnested(
    { ...DRAWN_UP, parties: 'text' },
    rows.map(({ sales: _, ...row }, i) => ({ ...row, parties: hashes.get(parties[i] ?? '') ?? '' })),
  );
  // Of an invoice that has no number yet, the entry says its place.
  const posting = await readyToPost(
    almanac,
    rows.map((row, i) =>
      invoiceIssued({
        ...{ id: String(i + 1), issuedOn: row.issued_on, currency: row.currency, sales: row.sales },
        ...{ tax: row.tax, total: row.total, creditUsed: row.credit_used },
      }),
    ),
  );
  const names = Object.keys(DRAWN_UP);
  return {
    ...{ invoices, rows },
    newParties: await unknownOf(almanac, hashes, within),
    bound: { ...drawn.bound, ...posting.bound, count: rows.length },
    statement: `
      with taken as (
        update business set next_invoice_number = next_invoice_number + $count
        returning next_invoice_number - $count as first),
      issued as (
        insert into invoices (number, prefix, ${names.join(', ')}, parties_id)
        select t.first + x.place - 1,
          coalesce((select s.prefix from invoice_series s where s.first_number <= t.first + x.place - 1
                    order by s.first_number desc limit 1), ''),
          ${names.map((name) => `x.${name}`).join(', ')}, p.id
        from taken t cross join ${drawn.table} join invoice_parties p on p.hash = decode(x.parties, 'hex') order by x.place
        returning id, number, prefix),
      posted as (
        insert into journal (${JOURNAL})
        select e.posted_on, e.event, e.currency, i.id, e.payment_id, e.accounts::int[], e.amounts::bigint[]
        from taken t cross join (select * from ${posting.table}) e join issued i on i.number = t.first + e.invoice_id - 1
        order by e.place)
      select id::text, prefix || number as number from issued i order by i.number`,
  };
}

/**
 * Issues invoices, with their numbers, dues and entries in the books: the one place where an invoice is written. Numbers
 * are the next of the series in the order given. They are taken here, after everything was computed, in the transaction
 * of the invoices, so that they have no gap; the database refuses a second invoice for one boundary.
 */
export async function writeInvoices(
  { db }: Almanac,
  { invoices, rows, newParties, statement, bound }: DrawnUpInvoices,
  within: Transaction,
): Promise<WrittenInvoice[]> {
  if (invoices.length === 0) return [];
  if (newParties.size > 0)
    await db.rows(
      `insert into invoice_parties (hash, parties)
       select decode(hash, 'hex'), parties from unnest($hashes::text[], $parties::jsonb[]) as p (hash, parties)
       on conflict do nothing`,
      { hashes: [...newParties.keys()], parties: [...newParties.values()] },
      within,
    );
  const written = await db.rows<{ id: string; number: string }>(statement, bound, within);
  if (written.length !== invoices.length)
    throw new Error(`${written.length} of ${invoices.length} invoices were written.`);
  await writeDues(
    db,
    written.flatMap(({ id }, i) =>
      (invoices[i]?.dues ?? []).map(({ dueOn, due }, n) => ({
        ...{ invoice_id: id, due_place: n + 1, due_on: formatDay(dueOn), amount: due },
      })),
    ),
    within,
  );
  return rows.map((row, i) => ({
    ...{ id: written[i]?.id ?? '', number: written[i]?.number ?? '', kind: row.kind },
    ...{ periodFrom: row.period_from, periodTo: row.period_to, dueOn: row.due_on },
    due: invoices[i]?.payment.due ?? 0n,
  }));
}

/** The parties of invoices are kept once for all invoices on which they are the same: under what they say. */
function hashesOf(parties: readonly string[]): Map<string, string> {
  const hashes = new Map<string, string>();
  for (const text of parties)
    if (!hashes.has(text)) hashes.set(text, createHash('sha256').update(text).digest('hex'));
  return hashes;
}

/** Those parties that are not kept yet, by their hash. */
async function unknownOf(
  { db }: Almanac,
  hashes: ReadonlyMap<string, string>,
  within: Transaction,
): Promise<Map<string, string>> {
  if (hashes.size === 0) return new Map();
  const known = await db.rows<{ hash: string }>(
    `select encode(hash, 'hex') as hash from invoice_parties
     where hash = any(array(select decode(h, 'hex') from unnest($hashes::text[]) h))`,
    { hashes: [...hashes.values()] },
    within,
  );
  const kept = new Set(known.map(({ hash }) => hash));
  return new Map(
    [...hashes].map(([text, hash]) => [hash, text] as const).filter(([hash]) => !kept.has(hash)),
  );
}

/** Writes the dated parts of invoices. The invoices are locked by the caller, or of the same transaction. */
export async function writeDues(
  db: Database,
  dues: readonly { invoice_id: string; due_place: number; due_on: string; amount: bigint }[],
  within: Transaction,
): Promise<void> {
  if (dues.length === 0) return;
  const { table, bound } = unnested(
    { invoice_id: 'bigint', due_place: 'int', due_on: 'date', amount: 'bigint' },
    dues,
  );
  await db.rows(
    `insert into dues (invoice_id, place, due_on, amount) select invoice_id, due_place, due_on, amount from ${table}`,
    bound,
    within,
  );
}
