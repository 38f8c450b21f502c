import { z } from 'zod';

/** A statement of a customer's account: one currency, the days both inclusive. */
export const accountQuery = z
  .object({
    currency: z.string().length(3).default(''),
    from: z.iso.date('Give the first day.').default('0001-01-01'),
    until: z.iso.date('Give the last day.').default('9999-12-31'),
  })
  .refine(({ from, until }) => until >= from, {
    message: 'Give a last day that is not before the first.',
    path: ['until'],
  });
export type AccountQuery = z.output<typeof accountQuery>;

export const ACCOUNT_KINDS = {
  invoice: 'Invoice',
  'credit note': 'Credit note',
  payment: 'Payment',
  'paid back': 'Paid back',
  'came back': 'Came back, not paid back',
  'written off': 'Written off',
  'write-off taken back': 'Recovered',
} as const;
export type AccountKind = keyof typeof ACCOUNT_KINDS;

/** One movement of an account; amounts in minor units, as digits: above zero it is owed more, below less. */
export interface AccountLine {
  readonly on: string;
  readonly kind: AccountKind;
  /** The number of the document, or by what was paid. */
  readonly about: string;
  /** The invoice that it is about, where it has one. */
  readonly invoiceId: string | null;
  readonly amount: string;
  /** What is owed after it; below zero: the customer has so much to their credit. */
  readonly balance: string;
}

/** A statement of a customer's account over some days. */
export interface AccountView {
  readonly customer: string;
  readonly currency: string;
  /** Every currency that there was anything in. */
  readonly currencies: readonly string[];
  readonly from: string;
  readonly until: string;
  readonly opening: string;
  readonly closing: string;
  readonly lines: readonly AccountLine[];
}
