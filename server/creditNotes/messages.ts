import { z } from 'zod';
import type { ShownEntryLine } from '../books/sayEntry.ts';
import type { CreditNoteKind } from './kinds.ts';

/** Minor units, more than nothing. */
export const minorUnits = z.string().regex(/^[1-9]\d{0,14}$/, 'Give an amount above zero.');

export const reasonSchema = z
  .string()
  .trim()
  .min(1, 'Say why: it stands on the document and in the audit.')
  .max(300, 'At most 300 characters.');

/** What of an invoice is taken back: all that is left, a sum with its tax, or amounts of its lines as they were agreed. */
export const correctionSchema = z.strictObject({
  what: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('all') }),
    z.strictObject({ kind: z.literal('amount'), amount: minorUnits }),
    z.strictObject({
      kind: z.literal('lines'),
      /** By the places of the lines on the invoice. */
      lines: z
        .array(z.strictObject({ line: z.int().min(0).max(500), amount: z.string().regex(/^-?\d{1,15}$/) }))
        .min(1, 'Choose a line.')
        .max(500),
    }),
  ]),
  reason: reasonSchema,
  /** Whether the customer is written to. */
  writes: z.boolean().default(true),
});
export type CorrectionMessage = z.input<typeof correctionSchema>;
export type WantedCorrection = z.output<typeof correctionSchema>;

/** A line that is taken back. */
export interface CreditedLine {
  readonly name: string;
  readonly amount: string;
}

/** What a credit note would do, or did. Amounts in minor units, as digits. */
export interface CorrectionEffect {
  readonly invoice: string;
  readonly currency: string;
  readonly lines: readonly CreditedLine[];
  readonly net: string;
  readonly tax: string;
  readonly total: string;
  /** What of it the invoice still lacks. */
  readonly setOff: string;
  /** What of it is the customer's credit. */
  readonly toCredit: string;
  /** What the invoice lacks after it. */
  readonly owed: string;
  /** The unpaid invoice is withdrawn as a whole. */
  readonly withdraws: boolean;
  readonly closesCase: boolean;
  readonly books: readonly ShownEntryLine[];
  /** The number of the note, once it is issued. */
  readonly number: string | null;
  readonly id: string | null;
}

/** What a list of credit notes is asked for by. */
export const CREDIT_NOTE_FILTERS = ['correction', 'withdrawal', 'settlement'] as const;

/** A credit note in the list of all. */
export interface CreditNoteRow extends CreditNoteView {
  readonly customerId: string;
  readonly customer: string;
  readonly plan: string;
  readonly subscriptionId: string;
}

/** A credit note as lists and pages show it. */
export interface CreditNoteView {
  readonly id: string;
  readonly number: string;
  readonly kind: CreditNoteKind;
  readonly issuedOn: string;
  readonly currency: string;
  readonly total: string;
  readonly setOff: string;
  readonly toCredit: string;
  readonly reason: string;
  readonly invoiceId: string | null;
  readonly invoice: string | null;
}
