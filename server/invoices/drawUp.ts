import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import { OF_LINES, type Payment, type PaymentLine, type PaymentMoney } from '../../core/listing/payment.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import { isSameTax, taxOf } from '../../core/pricing/tax.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { InvoiceField, InvoiceLine, InvoiceParties, InvoiceTax } from './invoiceParts.ts';

/** One payment of a subscription that is to be invoiced, with all that its invoice keeps. */
export interface InvoiceToWrite {
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly currency: string;
  readonly payment: Payment;
  /** Of an invoice for several payments: its dues, in order. */
  readonly dues: readonly Payment[];
  /** The taxes that the law asked for, where the terms leave them to it: of most lines, and of those taxed apart, by name. */
  readonly lawTaxes: {
    readonly most: CompiledTax | null;
    readonly apart: ReadonlyMap<string, CompiledTax | null>;
  };
  readonly parties: InvoiceParties;
  readonly fields: readonly InvoiceField[];
  /** The account of sales that the rate names; empty for the usual one. */
  readonly account: string;
  /** The accounts of lines of other plans, by their names. */
  readonly accounts: ReadonlyMap<string, string>;
  /** Of one that is issued before its time: the place of the walk before it. */
  readonly walkBefore: WalkPosition | null;
  /** Where it is served or shipped to, in words; null: where the customer is billed. */
  readonly at: string | null;
}

/** The columns that an invoice is drawn up in, with their types. */
export const DRAWN_UP = {
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
  state: 'text',
  fields: 'jsonb',
  account: 'text',
  law_tax: 'jsonb',
  walk_before: 'jsonb',
} as const;

/** An invoice as it is stored, but for the number that it gets last. */
export function drawUp(invoice: InvoiceToWrite, businessDate: string) {
  const { payment, lawTaxes, currency, account } = invoice;
  const { money } = payment;
  return {
    ...{ currency, account },
    subscription_id: invoice.subscriptionId,
    customer_id: invoice.customerId,
    kind: payment.kind,
    period_from: formatDay(payment.from),
    period_to: formatDay(payment.to),
    issued_on: businessDate,
    due_on: formatDay(payment.dueOn),
    lines: JSON.stringify(money.lines.map((line) => lineOf(line, invoice))),
    taxes: JSON.stringify(money.taxes.flatMap(invoiceTaxOf)),
    discount: money.discount,
    net: money.net,
    tax: money.tax,
    total: money.total,
    state: money.total === 0n ? 'paid' : 'issued',
    fields: JSON.stringify(invoice.fields),
    law_tax: lawTaxOf(lawTaxes),
    walk_before: invoice.walkBefore && JSON.stringify(invoice.walkBefore),
    sales: salesOf(invoice),
  };
}

/** The taxes of the law as they are kept: that of most lines, and `apart` those of lines by their names. */
function lawTaxOf({ most, apart }: InvoiceToWrite['lawTaxes']): string | null {
  if (most === null && apart.size === 0) return null;
  const said = (tax: CompiledTax | null) =>
    tax && { rate: formatDecimal(tax.rate, TAX_RATE_PLACES), mode: tax.mode };
  return JSON.stringify({
    ...said(most),
    ...(apart.size === 0
      ? {}
      : { apart: Object.fromEntries([...apart].map(([line, tax]) => [line, said(tax)])) }),
  });
}

/** The account of a line: its own where it is of another plan, or else the invoice's. */
const accountOf = ({ role, name }: PaymentLine, { account, accounts }: InvoiceToWrite) =>
  (OF_LINES.has(role) ? accounts.get(name) : undefined) ?? account;

/**
 * What of the net goes to which account of sales. Tax is rounded once for all lines of a rate (rules 6); each account has what its
 * own lines are without it, rounded, and the last what is left. Sums may be below zero, where a change gives back.
 */
function salesOf(invoice: InvoiceToWrite): { readonly code: string; readonly net: bigint }[] {
  const { payment, account, accounts } = invoice;
  const { lines, taxes, net } = payment.money;
  if (accounts.size === 0) return [{ code: account, net }];
  const sales = new Map<string, bigint>();
  for (const { tax, taxed } of taxes) {
    const sums = new Map<string, bigint>();
    for (const line of lines) {
      if (!isSameTax(line.tax, tax)) continue;
      const code = accountOf(line, invoice);
      sums.set(code, (sums.get(code) ?? 0n) + line.amount);
    }
    const parts = [...sums];
    let left = taxed.net;
    parts.forEach(([code, sum], i) => {
      const part = i === parts.length - 1 ? left : taxOf(sum, tax).net;
      left -= part;
      sales.set(code, (sales.get(code) ?? 0n) + part);
    });
  }
  return [...sales].map(([code, part]) => ({ code, net: part }));
}

function invoiceTaxOf({ tax, taxed }: PaymentMoney['taxes'][number]): InvoiceTax[] {
  if (tax === null) return [];
  const rate = formatDecimal(tax.rate, TAX_RATE_PLACES);
  return [{ rate, mode: tax.mode, net: taxed.net.toString(), tax: taxed.tax.toString() }];
}

function lineOf(line: PaymentLine, invoice: InvoiceToWrite): InvoiceLine {
  const { taxes } = invoice.payment.money;
  const account = accountOf(line, invoice);
  const { name, quantity, amount, discount, part } = line;
  const tax = taxes
    .filter((one) => one.tax !== null)
    .findIndex((one) => one.tax?.rate === line.tax?.rate && one.tax?.mode === line.tax?.mode);
  return {
    ...{ name, quantity, amount: amount.toString(), discount: discount.toString() },
    ...(tax < 0 ? {} : { tax }),
    ...(invoice.at !== null && line.role !== 'once' ? { at: invoice.at } : {}),
    ...(account === invoice.account ? {} : { account }),
    ...(part
      ? { part: { ...part, of: part.of.toString(), from: formatDay(part.from), to: formatDay(part.to) } }
      : {}),
  };
}
