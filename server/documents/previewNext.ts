import { formatDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { drawUp } from '../invoices/drawUp.ts';
import type { InvoiceLine, InvoiceTax } from '../invoices/invoiceParts.ts';
import { nextInvoice } from '../subscriptions/invoiceDue.ts';
import { issueDay } from '../../core/listing/issueDay.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { pdfOf, type DocumentFile } from './documentOf.ts';
import type { PrintedDocument } from './printed.ts';
import { asPrinted } from './readDocuments.ts';

/** The next invoice of a subscription as it would be printed: it has no number, nobody owes it, and nothing is kept of it. */
export async function readNextInvoice(almanac: Almanac, subscriptionId: string): Promise<PrintedDocument> {
  const subscription = await Subscription.findByPk(subscriptionId);
  if (!subscription) throw new RefusedCommand(404, 'There is no such subscription.');
  const next = await nextInvoice(almanac, subscriptionId);
  if (next === null) throw new RefusedCommand(409, 'Nothing more is invoiced of this subscription.');
  const customer = await Customer.findByPk(next.customerId, { rejectOnEmpty: true });
  const row = drawUp(next, formatDay(issueDay(next.payment, subscription)));
  const printed = asPrinted('invoice', {
    ...{ id: '', customerId: next.customerId, number: 'not issued yet', currency: next.currency },
    ...{ issuedOn: row.issued_on, dueOn: row.due_on, periodFrom: row.period_from, periodTo: row.period_to },
    ...{ lines: JSON.parse(row.lines) as InvoiceLine[], taxes: JSON.parse(row.taxes) as InvoiceTax[] },
    ...{ net: row.net.toString(), tax: row.tax.toString(), total: row.total.toString(), owed: null },
    dues: next.dues.map(({ dueOn, due }) => ({ dueOn: formatDay(dueOn), amount: due.toString() })),
    ...{ parties: next.parties, fields: [...next.fields], reason: '', corrects: null },
    reference: customer.reference.startsWith('new-') ? '' : customer.reference,
  });
  return { ...printed, isPreview: true };
}

/** The same as PDF. */
export async function previewOfNext(almanac: Almanac, subscriptionId: string): Promise<DocumentFile> {
  const file = await pdfOf(almanac, await readNextInvoice(almanac, subscriptionId));
  return { ...file, name: 'Preview of the next invoice.pdf' };
}
