import type { Entry, EntryLine } from './post.ts';

/** What of a net sum goes to which account of sales, by the codes that rates name; empty for the usual one. */
export type SalesOf = readonly { readonly code: string; readonly net: bigint }[];

/** An invoice as the books see it, in minor units. */
export interface BookedInvoice {
  readonly id: string;
  readonly issuedOn: string;
  readonly currency: string;
  readonly tax: bigint;
  readonly total: bigint;
  readonly sales: SalesOf;
}

/** An invoice is issued: the customer owes it. */
export function invoiceIssued(invoice: BookedInvoice): Entry {
  const { id, issuedOn, currency, tax, total, sales } = invoice;
  return {
    ...{ event: 'invoice issued', postedOn: issuedOn, currency, invoiceId: id },
    lines: [{ account: { kind: 'receivable' }, amount: total }, ...sold({ sales, tax }, -1n)],
  };
}

/** What was sold and its tax, on their accounts: below zero as it is sold, above as it is taken back. */
function sold(
  { sales, tax }: { readonly sales: SalesOf; readonly tax: bigint },
  sign: 1n | -1n,
): EntryLine[] {
  return [
    ...sales.map(({ code, net }) => ({ account: { kind: 'sales' as const, code }, amount: sign * net })),
    { account: { kind: 'tax' }, amount: sign * tax },
  ];
}

/** A credit note is issued: what its invoice still lacked is not owed any more, and the rest is the customer's credit. */
export function creditNoteIssued(note: {
  readonly id: string;
  readonly invoiceId: string | null;
  readonly issuedOn: string;
  readonly currency: string;
  readonly tax: bigint;
  readonly setOff: bigint;
  readonly toCredit: bigint;
  readonly sales: SalesOf;
}): Entry {
  const { id, invoiceId, issuedOn, currency, setOff, toCredit } = note;
  return {
    ...{ event: 'credit note', postedOn: issuedOn, currency, invoiceId, creditNoteId: id },
    lines: [
      ...sold(note, 1n),
      { account: { kind: 'receivable' }, amount: -setOff },
      { account: { kind: 'credit' }, amount: -toCredit },
    ],
  };
}

/** An invoice, what of it, and when: minor units. */
interface OfInvoice {
  readonly invoiceId: string;
  readonly amount: bigint;
  readonly currency: string;
  readonly on: string;
}

/** The customer's credit pays for an invoice. */
export function creditUsed({ invoiceId, amount, currency, on }: OfInvoice): Entry {
  return {
    ...{ event: 'credit used', postedOn: on, currency, invoiceId },
    lines: [
      { account: { kind: 'credit' }, amount },
      { account: { kind: 'receivable' }, amount: -amount },
    ],
  };
}

/** Where money is that came in, or goes out: at the gateway, at the bank, or in the till. */
export type MoneyAt = 'clearing' | 'bank' | 'cash';

/** More came in than any invoice lacked: it is the customer's credit. */
export function overPaid(of: {
  readonly takingId: string;
  readonly amount: bigint;
  readonly currency: string;
  readonly on: string;
  readonly at: MoneyAt;
}): Entry {
  const { takingId, amount, currency, on, at } = of;
  return {
    ...{ event: 'over-paid', postedOn: on, currency, takingId },
    lines: [
      { account: { kind: at }, amount },
      { account: { kind: 'credit' }, amount: -amount },
    ],
  };
}

/** Credit is paid out to the customer; or that failed, and it is their credit again. */
export function paidOut(
  of: {
    readonly refundId: string;
    readonly amount: bigint;
    readonly currency: string;
    readonly on: string;
    readonly at: MoneyAt;
  },
  failed = false,
): Entry {
  const { refundId, currency, on, at } = of;
  const amount = failed ? -of.amount : of.amount;
  return {
    ...{ event: failed ? 'pay-out failed' : 'paid out', postedOn: on, currency, refundId },
    lines: [
      { account: { kind: 'credit' }, amount },
      { account: { kind: at }, amount: -amount },
    ],
  };
}

/** Money of a payment has come in: it is on its way from the gateway, at the bank, or in the till. */
export function paymentCollected(payment: {
  readonly id: string;
  readonly invoiceId: string;
  readonly amount: bigint;
  readonly currency: string;
  readonly paidOn: string;
  readonly at?: MoneyAt;
}): Entry {
  const { id, invoiceId, amount, currency, paidOn, at = 'clearing' } = payment;
  return {
    event: 'collected',
    postedOn: paidOn,
    currency,
    invoiceId,
    paymentId: id,
    lines: [
      { account: { kind: at }, amount },
      { account: { kind: 'receivable' }, amount: -amount },
    ],
  };
}

/** What an invoice still lacks is given up; or that is taken back, since it is paid after all. */
export function invoiceWrittenOff({ invoiceId, currency, on, ...of }: OfInvoice, takenBack = false): Entry {
  const amount = takenBack ? -of.amount : of.amount;
  return {
    ...{ event: takenBack ? 'write-off taken back' : 'written off', postedOn: on, currency, invoiceId },
    lines: [
      { account: { kind: 'written off' }, amount },
      { account: { kind: 'receivable' }, amount: -amount },
    ],
  };
}
