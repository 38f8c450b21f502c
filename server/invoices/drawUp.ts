import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import type { Payment, PaymentLine, PaymentMoney } from '../../core/listing/payment.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
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
  credit_used: 'bigint',
  state: 'text',
  fields: 'jsonb',
  account: 'text',
  law_tax: 'jsonb',
} as const;

/** An invoice as it is stored, but for the number that it gets last. */
export function drawUp(invoice: InvoiceToWrite, businessDate: string) {
  const { payment, lawTax, currency, account } = invoice;
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
  };
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
