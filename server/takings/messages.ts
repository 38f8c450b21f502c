import { z } from 'zod';
import type { ShownEntryLine } from '../books/sayEntry.ts';
import { minorUnits } from '../creditNotes/messages.ts';
import { MEANS_BY_HAND } from '../payments/meansKinds.ts';

/** Money that staff took from a customer: by what, how much, when, and what it is for. */
export const takingSchema = z.strictObject({
  means: z.enum(MEANS_BY_HAND, 'Choose how it was paid.'),
  currency: z.string().length(3),
  amount: minorUnits,
  receivedOn: z.iso.date('Give the day on which it came in.'),
  /** As it stands on the bank statement or the cheque. */
  reference: z.string().trim().max(140, 'At most 140 characters.').default(''),
  note: z.string().trim().max(500, 'At most 500 characters.').default(''),
  /** The invoices that it pays, in this order. */
  invoices: z.array(z.string().regex(/^\d{1,18}$/)).max(50, 'At most 50 invoices at once.'),
  /** What is over becomes the customer's credit: named before, and held against what it comes to. */
  over: z
    .string()
    .regex(/^\d{1,15}$/)
    .optional(),
  receipt: z.boolean().default(true),
});
export type TakingMessage = z.input<typeof takingSchema>;
export type WantedTaking = z.output<typeof takingSchema>;

/** What a payment by hand would do, or did. Minor units, as digits. */
export interface TakingEffect {
  readonly currency: string;
  readonly amount: string;
  readonly paid: readonly {
    readonly id: string;
    readonly invoice: string;
    readonly owed: string;
    readonly paid: string;
    readonly left: string;
    /** It was written off: what comes in for it is recovered. */
    readonly recovered: boolean;
    readonly closesCase: boolean;
  }[];
  /** What no invoice lacks: the customer's credit. */
  readonly over: string;
  readonly books: readonly ShownEntryLine[];
}

/** An invoice that a payment by hand may pay. */
export interface PayableInvoice {
  readonly id: string;
  readonly number: string;
  readonly dueOn: string;
  readonly currency: string;
  readonly owed: string;
  readonly state: 'issued' | 'part-paid' | 'written off';
  readonly plan: string;
  /** A charge of it is under way: nothing else pays it until that is known. */
  readonly underWay: boolean;
}
