import { money, onDate, sentence } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter } from '../customers/link.ts';
import { saidPeriod, writeAbout } from '../notices/occasions.ts';
import type { InvoiceToWrite } from './drawUp.ts';
import type { WrittenInvoice } from './writeInvoices.ts';

/** Sends an invoice that its customer pays by hand, with the way to pay it. */
export async function askToPay(
  almanac: Almanac,
  subscription: { readonly id: string; readonly customerId: string; readonly rateId: string },
  of: { readonly invoice: WrittenInvoice; readonly asked: InvoiceToWrite },
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const { invoice, asked } = of;
  const { currency, dues } = asked;
  const parts = dues.map(({ due, dueOn }) =>
    sentence('amount by', { amount: money(due, currency), date: onDate(formatDay(dueOn)) }),
  );
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'invoice to pay',
      onceKey: `to-pay:${invoice.id}`,
      reason: `Invoice ${invoice.number}`,
      invoiceId: invoice.id,
      linkId: (await linkForLetter(subscription, businessDate, within)).id,
      says: {
        invoice: invoice.number,
        amount: money(invoice.due, currency),
        date: onDate(invoice.dueOn),
        period: saidPeriod(invoice),
        ...(parts.length > 1
          ? {
              next: sentence('in parts', {
                count: String(parts.length),
                parts: { all: parts, joined: ',' },
              }),
            }
          : {}),
      },
    },
    businessDate,
    within,
  );
}
