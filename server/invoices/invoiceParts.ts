/** A line of an invoice as it was issued; amounts in minor units, as strings of digits. */
export interface InvoiceLine {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  readonly discount: string;
  /** The place among the invoice's taxes of the one that it bears; none: it bears none. */
  readonly tax?: number;
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
