import { CREDIT_NOTE_COLUMNS } from '../creditNotes/creditNoteList.ts';
import { saySettled } from '../../core/words/saySettled.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { leftOf } from '../creditNotes/correctInvoice.ts';
import type { CreditNoteView } from '../creditNotes/messages.ts';
import { creditAtHand } from '../customers/credit.ts';
import { RefusedCommand } from '../http/problem.ts';
import { ATTEMPT, ATTEMPT_FROM, viewOfAttempt } from '../payments/paymentList.ts';
import { Invoice } from './Invoice.ts';
import { INVOICE, INVOICE_FROM, payableCurrencies, viewOfInvoice } from './invoiceList.ts';
import type { InvoiceParties } from './invoiceParts.ts';
import type { InvoicePage } from './messages.ts';

type Row = Parameters<typeof viewOfInvoice>[0];

/** One invoice with its lines, taxes, payments and credit notes. */
export async function readInvoice(almanac: Almanac, id: string): Promise<InvoicePage> {
  const { db } = almanac;
  const invoice = await Invoice.findByPk(id);
  if (!invoice) throw new RefusedCommand(404, 'There is no such invoice.');
  const today = await businessDateOf(almanac);
  const row = await db.row<Row & { parties: InvoiceParties; openCaseId: string | null }>(
    `select ${INVOICE}, x.parties, (select k.id::text from recovery_cases k where k.id = i.case_id and k.state = 'open') as "openCaseId"
     from ${INVOICE_FROM} join invoice_parties x on x.id = i.parties_id where i.id = $id`,
    { id, today },
  );
  if (!row) throw new Error(`Invoice ${id} is not read.`);
  const { parties, openCaseId, ...listed } = row;
  const left = await leftOf(almanac, invoice);
  const { customerId, currency, lines, taxes, fields, kind } = invoice;
  return {
    ...viewOfInvoice(listed, today, await payableCurrencies(almanac)),
    ...{ kind, taxes, fields, parties, openCaseId, collects: listed.collects },
    lines: lines.map(({ name, quantity, amount, discount, part, at }, i) => ({
      ...{ name, quantity, amount, discount, at: at ?? null },
      settles: part ? saySettled(name, part, currency) : null,
      left: (left.lines[i] ?? 0n).toString(),
    })),
    ...{ net: invoice.net.toString(), tax: invoice.tax.toString(), left: left.total.toString() },
    ...{ collected: invoice.collected.toString(), creditUsed: invoice.creditUsed.toString() },
    credited: invoice.credited.toString(),
    dues: await db.rows(
      `select d.due_on as "dueOn", d.amount::text, coalesce(o.owed, 0)::text as owed from dues d
       left join open_dues o on o.invoice_id = d.invoice_id and o.place = d.place
       where d.invoice_id = $id order by d.place`,
      { id },
    ),
    attempts: (
      await db.rows<Parameters<typeof viewOfAttempt>[0]>(
        `select ${ATTEMPT} from ${ATTEMPT_FROM} where a.invoice_id = $id order by a.id desc`,
        { id },
      )
    ).map(viewOfAttempt),
    creditNotes: await db.rows<CreditNoteView>(`${CREDIT_NOTE} where n.invoice_id = $id order by n.id`, {
      id,
    }),
    credit: (await creditAtHand(almanac, { customerId, currency })).toString(),
  };
}

const CREDIT_NOTE = `
  select ${CREDIT_NOTE_COLUMNS}
  from credit_notes n left join invoices i on i.id = n.invoice_id`;
