import type { CreditNoteView } from '../creditNotes/messages.ts';
import type { AttemptRow } from '../payments/messages.ts';
import type { InvoiceField, InvoiceParties, InvoiceState, InvoiceTax } from './invoiceParts.ts';

/** The states of an invoice as lists show them: one that is open past its day is overdue. */
export type ShownInvoiceState = InvoiceState | 'overdue';

/** What invoices can be asked for: open is issued and part-paid ones together. */
export const INVOICE_FILTERS = [
  'open',
  'overdue',
  'part-paid',
  'paid',
  'withdrawn',
  'written off',
  'corrected',
] as const;

/** An invoice in a list; amounts in minor units, as digits. */
export interface InvoiceRow {
  readonly id: string;
  /** With the prefix of its series. */
  readonly number: string;
  readonly state: ShownInvoiceState;
  readonly customerId: string;
  readonly customer: string;
  readonly subscriptionId: string;
  readonly plan: string;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly issuedOn: string;
  readonly dueOn: string;
  readonly currency: string;
  readonly total: string;
  readonly owed: string;
  /** 'Larkfield ending 0019', 'by hand', 'no card'. */
  readonly method: string;
  /** Why what is open of it can neither be charged nor paid as things stand; null where nothing hinders that. */
  readonly hindered: string | null;
  /** A charge of it is under way. */
  readonly underWay: boolean;
}

/** One line of an invoice as its page shows it. */
export interface InvoicePageLine {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  readonly discount: string;
  /** What it settles, where it is of a change. */
  readonly settles: string | null;
  readonly at: string | null;
  /** What of it can still be taken back. */
  readonly left: string;
}

/** An invoice with all that happened to it. */
export interface InvoicePage extends InvoiceRow {
  readonly kind: string;
  readonly lines: readonly InvoicePageLine[];
  readonly taxes: readonly InvoiceTax[];
  readonly net: string;
  readonly tax: string;
  readonly collected: string;
  readonly creditUsed: string;
  readonly credited: string;
  /** What credit notes can still take back of it. */
  readonly left: string;
  readonly fields: readonly InvoiceField[];
  readonly parties: InvoiceParties;
  readonly dues: readonly { readonly dueOn: string; readonly amount: string; readonly owed: string }[];
  readonly attempts: readonly AttemptRow[];
  readonly creditNotes: readonly CreditNoteView[];
  readonly collects: 'automatic' | 'by hand';
  readonly openCaseId: string | null;
  /** The customer's credit at hand in its currency. */
  readonly credit: string;
}
