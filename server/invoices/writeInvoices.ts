import type { Transaction } from 'sequelize';
import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import type { Payment, PaymentKind, PaymentLine, PaymentMoney } from '../../core/listing/payment.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import type { Almanac } from '../almanac.ts';
import { invoiceIssued } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { unnested } from '../db/unnested.ts';
import type { InvoiceField, InvoiceLine, InvoiceParties, InvoiceTax } from './invoiceParts.ts';

/** One payment of a subscription that is to be invoiced, with all that its invoice keeps. */
export interface InvoiceToWrite {
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly currency: string;
  readonly payment: Payment;
  /** Of an invoice for several payments: its dues, in order. */
  readonly dues: readonly Payment[];
  /** The tax that the law asked for, where the terms leave it to the law. */
  readonly lawTax: CompiledTax | null;
  readonly parties: InvoiceParties;
  readonly fields: readonly InvoiceField[];
  /** The account of sales that the rate names; empty for the usual one. */
  readonly account: string;
}

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

/**
 * Issues invoices, with their numbers, dues and entries in the books: the one place where an invoice is written. Numbers
 * are the next of the series in the order given. They are taken here, after everything was computed, in the transaction
 * of the invoices, so that they have no gap; the database refuses a second invoice for one boundary.
 */
export async function writeInvoices(
  almanac: Almanac,
  invoices: readonly InvoiceToWrite[],
  businessDate: string,
  within: Transaction,
): Promise<WrittenInvoice[]> {
  if (invoices.length === 0) return [];
  const { db } = almanac;
  await writeParties(almanac, invoices, within);
  const taken = await db.row<{ first: string; series: readonly { from: string; prefix: string }[] }>(
    `update business set next_invoice_number = next_invoice_number + $count
     returning (next_invoice_number - $count)::text as first,
       (select coalesce(json_agg(json_build_object('from', first_number::text, 'prefix', prefix) order by first_number desc), '[]')
        from invoice_series) as series`,
    { count: invoices.length },
    within,
  );
  if (!taken) throw new Error('There is no business to issue invoices for.');
  const first = BigInt(taken.first);
  const prefixOf = (number: bigint) => taken.series.find(({ from }) => BigInt(from) <= number)?.prefix ?? '';
  const rows = invoices.map((invoice, i) => {
    const number = first + BigInt(i);
    return rowOf(invoice, number, prefixOf(number), businessDate);
  });
  const { table, bound } = unnested(COLUMNS, rows);
  const names = Object.keys(COLUMNS).filter((name) => name !== 'parties');
  const written = await db.rows<{ id: string; number: string }>(
    `insert into invoices (${names.join(', ')}, parties_id)
     select ${names.map((name) => `x.${name}`).join(', ')}, p.id
     from ${table} join invoice_parties p on p.hash = decode(md5(x.parties::text), 'hex') order by x.place
     returning id::text, number::text`,
    bound,
    within,
  );
  const idOf = new Map(written.map(({ id, number }) => [number, id]));
  const issued = rows.map((row) => {
    const id = idOf.get(row.number.toString());
    if (id === undefined) throw new Error(`Invoice ${row.number} was not written.`);
    return { id, row };
  });
  await post(
    almanac,
    issued.map(({ id, row }) =>
      invoiceIssued({
        ...{ id, issuedOn: row.issued_on, currency: row.currency, account: row.account },
        ...{ net: row.net, tax: row.tax, total: row.total, creditUsed: row.credit_used },
      }),
    ),
    within,
  );
  await writeDues(
    almanac,
    issued.flatMap(({ id }, i) =>
      (invoices[i]?.dues ?? []).map(({ dueOn, due }, n) => ({
        ...{ invoice_id: id, due_place: n + 1, due_on: formatDay(dueOn), amount: due },
      })),
    ),
    within,
  );
  return issued.map(({ id, row }, i) => ({
    ...{ id, number: `${row.prefix}${row.number}`, kind: row.kind as PaymentKind },
    ...{
      periodFrom: row.period_from,
      periodTo: row.period_to,
      dueOn: row.due_on,
      due: invoices[i]?.payment.due ?? 0n,
    },
  }));
}

const COLUMNS = {
  number: 'bigint',
  prefix: 'text',
  subscription_id: 'bigint',
  customer_id: 'bigint',
  kind: 'text',
  period_from: 'date',
  period_to: 'date',
  issued_on: 'date',
  due_on: 'date',
  currency: 'text',
  lines: 'jsonb',
  taxes: 'jsonb',
  discount: 'bigint',
  net: 'bigint',
  tax: 'bigint',
  total: 'bigint',
  credit_used: 'bigint',
  state: 'text',
  fields: 'jsonb',
  account: 'text',
  law_tax: 'jsonb',
  parties: 'jsonb',
} as const;

function rowOf(invoice: InvoiceToWrite, number: bigint, prefix: string, businessDate: string) {
  const { payment, lawTax, currency, account } = invoice;
  const { money } = payment;
  return {
    ...{ number, prefix, currency, account },
    subscription_id: invoice.subscriptionId,
    customer_id: invoice.customerId,
    kind: payment.kind,
    period_from: formatDay(payment.from),
    period_to: formatDay(payment.to),
    issued_on: businessDate,
    due_on: formatDay(payment.dueOn),
    lines: JSON.stringify(money.lines.map((line) => lineOf(line, money))),
    taxes: JSON.stringify(money.taxes.flatMap(taxOf)),
    discount: money.discount,
    net: money.net,
    tax: money.tax,
    total: money.total,
    credit_used: payment.credit,
    state: payment.due === 0n ? 'paid' : 'issued',
    fields: JSON.stringify(invoice.fields),
    law_tax:
      lawTax && JSON.stringify({ rate: formatDecimal(lawTax.rate, TAX_RATE_PLACES), mode: lawTax.mode }),
    parties: JSON.stringify(invoice.parties),
  };
}

/** The parties of invoices are kept once for all invoices on which they are the same. */
async function writeParties(
  almanac: Almanac,
  invoices: readonly InvoiceToWrite[],
  within: Transaction,
): Promise<void> {
  const parties = [...new Set(invoices.map((one) => JSON.stringify(one.parties)))];
  await almanac.db.rows(
    `insert into invoice_parties (hash, parties)
     select hash, parties from (
       select distinct on (hash) hash, parties from (
         select decode(md5(parties::text), 'hex') as hash, parties from unnest($parties::jsonb[]) as p (parties)) hashed
       order by hash) fresh
     where not exists (select 1 from invoice_parties known where known.hash = fresh.hash)
     on conflict do nothing`,
    { parties },
    within,
  );
}

async function writeDues(
  almanac: Almanac,
  dues: readonly { invoice_id: string; due_place: number; due_on: string; amount: bigint }[],
  within: Transaction,
): Promise<void> {
  if (dues.length === 0) return;
  const { table, bound } = unnested(
    { invoice_id: 'bigint', due_place: 'int', due_on: 'date', amount: 'bigint' },
    dues,
  );
  await almanac.db.rows(
    `insert into dues (invoice_id, place, due_on, amount) select invoice_id, due_place, due_on, amount from ${table}`,
    bound,
    within,
  );
}

function taxOf({ tax, taxed }: PaymentMoney['taxes'][number]): InvoiceTax[] {
  if (tax === null) return [];
  const rate = formatDecimal(tax.rate, TAX_RATE_PLACES);
  return [{ rate, mode: tax.mode, net: taxed.net.toString(), tax: taxed.tax.toString() }];
}

function lineOf(line: PaymentLine, { taxes }: PaymentMoney): InvoiceLine {
  const { name, quantity, amount, discount, part } = line;
  const tax = taxes
    .filter((one) => one.tax !== null)
    .findIndex((one) => one.tax?.rate === line.tax?.rate && one.tax?.mode === line.tax?.mode);
  return {
    ...{ name, quantity, amount: amount.toString(), discount: discount.toString() },
    ...(tax < 0 ? {} : { tax }),
    ...(part
      ? { part: { ...part, of: part.of.toString(), from: formatDay(part.from), to: formatDay(part.to) } }
      : {}),
  };
}
