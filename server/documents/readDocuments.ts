import type { Transaction } from 'sequelize';
import { saySettled } from '../../core/words/saySettled.ts';
import type { Almanac } from '../almanac.ts';
import { legibleOn } from '../branding/messages.ts';
import type { InvoiceField, InvoiceLine, InvoiceParties, InvoiceTax } from '../invoices/invoiceParts.ts';
import { settingsOf } from '../settings/settings.ts';
import type { PrintedDocument, PrintedLine, PrintedLook } from './printed.ts';

/** A document as it is stored; amounts in minor units, as digits. */
export interface StoredDocument {
  readonly id: string;
  readonly customerId: string;
  readonly number: string;
  readonly issuedOn: string;
  readonly dueOn: string | null;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly currency: string;
  readonly lines: InvoiceLine[];
  readonly taxes: InvoiceTax[];
  readonly net: string;
  readonly tax: string;
  readonly total: string;
  readonly owed: string | null;
  readonly dues: { dueOn: string; amount: string }[] | null;
  readonly parties: InvoiceParties;
  readonly reference: string;
  readonly fields: InvoiceField[];
  readonly reason: string;
  readonly corrects: { number: string; issuedOn: string } | null;
}

/** Some invoices as they are printed, in the order of their numbers; those that are none are left out. */
export async function readInvoices(
  { db }: Almanac,
  ids: readonly string[],
  within?: Transaction,
): Promise<PrintedDocument[]> {
  const rows = await db.rows<StoredDocument>(
    `select i.id::text, i.customer_id::text as "customerId", i.prefix || i.number as number, i.issued_on as "issuedOn",
       i.due_on as "dueOn", i.period_from as "periodFrom", i.period_to as "periodTo", i.currency, i.lines, i.taxes,
       i.net::text, i.tax::text, i.total::text, case when i.state = 'written off' then '0' else i.owed::text end as owed,
       (select json_agg(json_build_object('dueOn', d.due_on, 'amount', d.amount::text) order by d.place)
        from dues d where d.invoice_id = i.id) as dues,
       x.parties, case when c.reference like 'new-%' then '' else c.reference end as reference, i.fields, '' as reason,
       null as corrects
     from invoices i join invoice_parties x on x.id = i.parties_id join customers c on c.id = i.customer_id
     where i.id = any($ids::bigint[]) order by i.number`,
    { ids: [...ids] },
    within,
  );
  return rows.map((row) => asPrinted('invoice', row));
}

/** Some credit notes as they are printed, in the order of their numbers; those that are none are left out. */
export async function readCreditNotes(
  { db }: Almanac,
  ids: readonly string[],
  within?: Transaction,
): Promise<PrintedDocument[]> {
  const rows = await db.rows<StoredDocument>(
    `select n.id::text, n.customer_id::text as "customerId", n.prefix || n.number as number, n.issued_on as "issuedOn",
       null as "dueOn", n.period_from as "periodFrom", n.period_to as "periodTo", n.currency, n.lines, n.taxes, n.net::text,
       n.tax::text, n.total::text, null as owed, null as dues, x.parties,
       case when c.reference like 'new-%' then '' else c.reference end as reference, n.fields, n.reason,
       case when i.id is not null then json_build_object('number', i.prefix || i.number, 'issuedOn', i.issued_on) end as corrects
     from credit_notes n join invoice_parties x on x.id = n.parties_id join customers c on c.id = n.customer_id
     left join invoices i on i.id = n.invoice_id
     where n.id = any($ids::bigint[]) order by n.number`,
    { ids: [...ids] },
    within,
  );
  return rows.map((row) => asPrinted('credit note', row));
}

/** A document as it is printed. */
export function asPrinted(
  kind: PrintedDocument['kind'],
  { lines, dues, ...row }: StoredDocument,
): PrintedDocument {
  return {
    ...row,
    kind,
    dues: dues ?? [],
    payLink: null,
    lines: lines.map(({ name, quantity, amount, discount, part, at, tax }): PrintedLine => ({
      ...{ name, quantity, amount, discount, at: at ?? null, tax: tax ?? null },
      settles: part ? saySettled(name, part, row.currency) : null,
    })),
  };
}

/** How documents look now: the logo as pixels, which every reader of PDF draws. */
export async function printedLook(almanac: Almanac): Promise<PrintedLook> {
  const { mainColour, logo } = await settingsOf(almanac, 'branding');
  const colour = legibleOn(mainColour, '#ffffff');
  if (logo === null) return { colour, logo: null };
  const upload = await almanac.db.row<{ picture: string; type: string }>(
    `select encode(coalesce(png, bytes), 'base64') as picture, case when png is null then media_type else 'image/png' end as type
     from uploads where id = $logo`,
    { logo },
  );
  // Only what readers of PDF can draw: WebP is not.
  const drawn = upload && ['image/png', 'image/jpeg'].includes(upload.type);
  return {
    colour,
    logo: drawn ? `data:${upload.type};base64,${upload.picture.replaceAll('\n', '')}` : null,
  };
}
