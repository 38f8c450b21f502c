import type { LineColumns } from '../settings/messages.ts';

/** A line of an invoice as it was issued; amounts in minor units, as strings of digits. */
export interface InvoiceLine {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  readonly discount: string;
  /** The place among the invoice's taxes of the one that it bears; none: it bears none. */
  readonly tax?: number;
  /** Where what it is for is served or shipped to, where that is not where the buyer is billed. */
  readonly at?: string;
  /** The account of sales that it is kept on, where that is not the invoice's. */
  readonly account?: string;
  /** Of a line that settles a change: which days of what it is. */
  readonly part?: InvoicePart;
}

/** Days of an amount, from a day up to another, that come back or are charged; minor units. */
export interface InvoicePart {
  readonly back: boolean;
  readonly of: string;
  readonly from: string;
  readonly to: string;
  readonly days: number;
  readonly whole: number;
}

/** One tax of an invoice: its rate in percent, and what it comes to in minor units. */
export interface InvoiceTax {
  readonly rate: string;
  readonly mode: 'exclusive' | 'inclusive';
  readonly net: string;
  readonly tax: string;
}

/** A tax as the law asked for it on a day: its rate in percent. */
export interface AskedTax {
  readonly rate: string;
  readonly mode: 'exclusive' | 'inclusive';
}

/** The taxes of the law that an invoice was drawn up with: of most lines (none: no rate), and of those taxed apart. */
export type KeptLawTax = Partial<AskedTax> & { readonly apart?: Readonly<Record<string, AskedTax | null>> };

export type InvoiceState = 'draft' | 'issued' | 'part-paid' | 'paid' | 'withdrawn' | 'written off';

/** A field of the business's own, such as a purchase order number. */
export interface InvoiceField {
  readonly label: string;
  readonly value: string;
}

/** Who issued an invoice and to whom, with what it says beside its lines: as all of that was on the day of issue. */
export interface InvoiceParties {
  readonly legalName?: string;
  readonly address?: string;
  readonly taxNumber?: string;
  readonly note?: string;
  readonly footer?: string;
  /** How its lines are printed; absent of what was issued before that could be chosen. */
  readonly columns?: LineColumns;
  /** The seller's country, by its code. */
  readonly country?: string;
  readonly to?: {
    readonly name: string;
    readonly organisation: string;
    readonly address: string;
    readonly taxNumber: string;
    readonly taxExempt: string;
    /** Where the buyer counts as living, by the country's code. */
    readonly country?: string | null;
  };
}
