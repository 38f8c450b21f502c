import type { InvoiceField, InvoiceParties, InvoiceTax } from '../invoices/invoiceParts.ts';

/** A line of a document as it is printed; amounts in minor units, as digits. */
export interface PrintedLine {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  /** What was taken off it. */
  readonly discount: string;
  /** What it settles, in words, where it is of a change. */
  readonly settles: string | null;
  /** Where it is served or shipped to, where that is not where the buyer is billed. */
  readonly at: string | null;
  /** The place of its tax among the taxes; null: it bears none. */
  readonly tax: number | null;
}

/** An invoice or a credit note with all that is printed of it, as plain data: it goes to a thread that prints. */
export interface PrintedDocument {
  readonly kind: 'invoice' | 'credit note';
  readonly id: string;
  readonly customerId: string;
  /** With the prefix of its series. */
  readonly number: string;
  readonly issuedOn: string;
  /** Null of a credit note. */
  readonly dueOn: string | null;
  /** The service period, half-open; the same day twice of what is of one day. */
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly currency: string;
  readonly lines: readonly PrintedLine[];
  readonly taxes: readonly InvoiceTax[];
  readonly net: string;
  readonly tax: string;
  readonly total: string;
  /** What is still to be paid of it; null of a credit note, and where it is printed as it was issued. */
  readonly owed: string | null;
  /** Its dated parts, where it has several. */
  readonly dues: readonly { readonly dueOn: string; readonly amount: string }[];
  readonly parties: InvoiceParties;
  /** What the buyer goes by with the business. */
  readonly reference: string;
  readonly fields: readonly InvoiceField[];
  /** Of a credit note: why, and the invoice that it corrects with its day. */
  readonly reason: string;
  readonly corrects: { readonly number: string; readonly issuedOn: string } | null;
  /** It was not issued: it is shown as it would be. */
  readonly isPreview?: boolean;
  /** Where it can be paid; null where that is not printed. */
  readonly payLink: string | null;
}

/** How documents look: the business's colour, legible on paper, and its logo as PNG or JPEG, base64. */
export interface PrintedLook {
  readonly colour: string;
  readonly logo: string | null;
}
