import type { drawUp } from '../invoices/drawUp.ts';
import type { InvoiceLine, InvoiceTax } from '../invoices/invoiceParts.ts';
import type { CreditNoteToWrite } from './writeCreditNotes.ts';

/** A payment below zero as a credit note: what an invoice would take away is given, above zero. */
export function settlementNote(row: ReturnType<typeof drawUp>, parties: string): CreditNoteToWrite {
  return {
    ...{ kind: 'settlement', customerId: row.customer_id, subscriptionId: row.subscription_id },
    ...{ invoiceId: null, settles: row.kind, periodFrom: row.period_from, periodTo: row.period_to },
    ...{ currency: row.currency, net: -row.net, tax: -row.tax, total: -row.total, setOff: 0n },
    lines: JSON.stringify((JSON.parse(row.lines) as InvoiceLine[]).map(givenBack)),
    taxes: JSON.stringify(
      (JSON.parse(row.taxes) as InvoiceTax[]).map((one) => ({
        ...one,
        ...{ net: (-BigInt(one.net)).toString(), tax: (-BigInt(one.tax)).toString() },
      })),
    ),
    sales: row.sales.map(({ code, net }) => ({ code, net: -net })),
    ...{ reason: '', parties, fields: row.fields, account: row.account, lawTax: row.law_tax },
    issuedBy: '',
  };
}

/** A line with its amount given back instead of charged. */
function givenBack({ amount, discount, ...line }: InvoiceLine): InvoiceLine {
  return { ...line, amount: (-BigInt(amount)).toString(), discount: (-BigInt(discount)).toString() };
}
