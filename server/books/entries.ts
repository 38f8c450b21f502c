import type { Entry, EntryLine } from './post.ts';

/** An invoice as the books see it, in minor units. */
export interface BookedInvoice {
  readonly id: string;
  readonly issuedOn: string;
  readonly currency: string;
  readonly tax: bigint;
  readonly total: bigint;
  readonly creditUsed: bigint;
  /** What of its net goes to which account of sales, by the codes that rates name; empty for the usual one. */
  readonly sales: readonly { readonly code: string; readonly net: bigint }[];
}

/**
 * An invoice is issued: what is to be paid of it is owed by the customer, what their credit pays is taken off that, and an
 * invoice below zero adds to it.
 */
export function invoiceIssued(invoice: BookedInvoice): Entry {
  const { id, issuedOn, currency, tax, total, creditUsed, sales } = invoice;
  const [owed, given] = total > 0n ? [total, 0n] : [0n, total];
  const lines: EntryLine[] = [
    { account: { kind: 'receivable' }, amount: owed - creditUsed },
    { account: { kind: 'credit' }, amount: given + creditUsed },
    ...sales.map(({ code, net }) => ({ account: { kind: 'sales' as const, code }, amount: -net })),
    { account: { kind: 'tax' }, amount: -tax },
  ];
  return { event: 'invoice issued', postedOn: issuedOn, currency, invoiceId: id, lines };
}

/** Money of a payment is on its way from the gateway. */
export function paymentCollected(payment: {
  readonly id: string;
  readonly invoiceId: string;
  readonly amount: bigint;
  readonly currency: string;
  readonly paidOn: string;
}): Entry {
  const { id, invoiceId, amount, currency, paidOn } = payment;
  return {
    event: 'collected',
    postedOn: paidOn,
    currency,
    invoiceId,
    paymentId: id,
    lines: [
      { account: { kind: 'clearing' }, amount },
      { account: { kind: 'receivable' }, amount: -amount },
    ],
  };
}

/** What an invoice still lacks is given up. */
export function invoiceWrittenOff(of: {
  readonly invoiceId: string;
  readonly owed: bigint;
  readonly currency: string;
  readonly on: string;
}): Entry {
  const { invoiceId, owed, currency, on } = of;
  return {
    event: 'written off',
    postedOn: on,
    currency,
    invoiceId,
    lines: [
      { account: { kind: 'written off' }, amount: owed },
      { account: { kind: 'receivable' }, amount: -owed },
    ],
  };
}
