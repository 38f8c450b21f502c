import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import type { PaymentKind } from '../../core/listing/payment.ts';
import type { Almanac } from '../almanac.ts';
import { invoiceIssued } from '../books/entries.ts';
import { JOURNAL, readyToPost } from '../books/post.ts';
import type { Bound, Database } from '../db/database.ts';
import { unnested } from '../db/unnested.ts';
import { settlementNote } from '../creditNotes/settlementNote.ts';
import { writeCreditNotes, type CreditNoteToWrite } from '../creditNotes/writeCreditNotes.ts';
import { useCredit } from '../customers/credit.ts';
import { DRAWN_UP, drawUp, type InvoiceToWrite } from './drawUp.ts';
import { hashedParties, keepParties, unknownParties } from './keepParties.ts';

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

/** Invoices and credit notes that only lack their numbers. */
export interface DrawnUpInvoices {
  readonly invoices: readonly InvoiceToWrite[];
  readonly rows: readonly ReturnType<typeof drawUp>[];
  /** Of the payments below zero: what settles a change is a credit note, in a series of its own. */
  readonly notes: readonly CreditNoteToWrite[];
  /** The parties that no document has had yet, by their hash. */
  readonly newParties: ReadonlyMap<string, string>;
  readonly statement: string;
  readonly bound: Readonly<Record<string, Bound>>;
}

/**
 * Draws payments up as invoices, and those below zero as credit notes, with their entries in the books, so that
 * {@link writeInvoices} has nothing left to compute: whoever waits for numbers waits for one statement.
 */
export async function drawUpInvoices(
  almanac: Almanac,
  payments: readonly InvoiceToWrite[],
  businessDate: string,
  within: Transaction,
): Promise<DrawnUpInvoices> {
  const parties = hashedParties(payments.map((one) => one.parties));
  const drawnUp = payments.map((payment, i) => ({
    ...{ payment, row: drawUp(payment, businessDate), parties: parties.of[i] ?? '' },
  }));
  const charged = drawnUp.filter(({ row }) => row.total >= 0n);
  const invoices = charged.map(({ payment }) => payment);
  const rows = charged.map(({ row }) => row);
  const notes = drawnUp
    .filter(({ row }) => row.total < 0n)
    .map((one) => settlementNote(one.row, one.parties));
  const drawn = unnested(
    { ...DRAWN_UP, parties: 'text' },
    charged.map(({ row: { sales: _, ...row }, parties: hash }) => ({ ...row, parties: hash })),
  );
  // Of an invoice that has no number yet, the entry says its place.
  const posting = await readyToPost(
    almanac,
    rows.map((row, i) =>
      invoiceIssued({
        ...{ id: String(i + 1), issuedOn: row.issued_on, currency: row.currency, sales: row.sales },
        ...{ tax: row.tax, total: row.total },
      }),
    ),
  );
  const names = Object.keys(DRAWN_UP);
  return {
    ...{ invoices, rows, notes },
    newParties: await unknownParties(almanac, parties, within),
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
 * of the invoices, so that they have no gap; the database refuses a second invoice for one boundary. Then credit notes are
 * issued, and what customers have of credit pays for the invoices.
 * @returns the invoices, in the order given
 */
export async function writeInvoices(
  almanac: Almanac,
  { invoices, rows, notes, newParties, statement, bound }: DrawnUpInvoices,
  businessDate: string,
  within: Transaction,
): Promise<WrittenInvoice[]> {
  await keepParties(almanac, newParties, within);
  const { db } = almanac;
  if (invoices.length === 0) {
    await writeCreditNotes(almanac, notes, businessDate, within);
    return [];
  }
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
  await writeCreditNotes(almanac, notes, businessDate, within);
  const payable = rows.map((row, i) => ({
    ...{ id: written[i]?.id ?? '', customerId: row.customer_id, currency: row.currency, owed: row.total },
  }));
  const used = await useCredit(almanac, payable, businessDate, within);
  return rows.map((row, i) => ({
    ...{ id: written[i]?.id ?? '', number: written[i]?.number ?? '', kind: row.kind },
    ...{ periodFrom: row.period_from, periodTo: row.period_to, dueOn: row.due_on },
    due: row.total - (used.get(written[i]?.id ?? '') ?? 0n),
  }));
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
