/** A line of an invoice as it was issued; amounts in minor units, as strings of digits. */
export interface InvoiceLine {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  readonly discount: string;
}

/** One tax of an invoice: its rate in percent, and what it comes to in minor units. */
export interface InvoiceTax {
  readonly rate: string;
  readonly mode: 'exclusive' | 'inclusive';
  readonly net: string;
  readonly tax: string;
}

export type InvoiceState = 'draft' | 'open' | 'part-paid' | 'paid' | 'void' | 'written off';
