import { z } from 'zod';
import type { ShownEntryLine } from '../books/sayEntry.ts';
import { minorUnits, reasonSchema } from '../creditNotes/messages.ts';
import { MEANS_BY_HAND, type Means } from '../payments/meansKinds.ts';

/** Money of a payment that goes back, with the credit note that corrects its invoice. */
export const refundSchema = z.strictObject({
  amount: minorUnits,
  /** Where it goes: to the card or account that it came from, to the customer's credit, or by hand. */
  to: z.enum(['gateway', 'credit', ...MEANS_BY_HAND], 'Choose where it goes.'),
  reason: reasonSchema,
  writes: z.boolean().default(true),
});
export type RefundMessage = z.input<typeof refundSchema>;
export type WantedRefund = z.output<typeof refundSchema>;

/** Credit that is paid out on request. */
export const payOutSchema = z.strictObject({
  currency: z.string().length(3),
  amount: minorUnits,
  to: z.enum(['gateway', ...MEANS_BY_HAND], 'Choose where it goes.'),
  /** The payment whose card or account it goes to. */
  attemptId: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
  reason: reasonSchema,
  writes: z.boolean().default(true),
});
export type PayOutMessage = z.input<typeof payOutSchema>;
export type WantedPayOut = z.output<typeof payOutSchema>;

export type RefundState = 'under way' | 'done' | 'failed';

/** What a refund would do, or did. Minor units, as digits. */
export interface RefundEffect {
  readonly currency: string;
  readonly amount: string;
  /** 'Larkfield ending 0019', 'Bank transfer', or that it is credit. */
  readonly to: string;
  readonly invoice: string | null;
  readonly creditNote: string | null;
  /** The customer's credit after it. */
  readonly credit: string;
  /** What it says of the subscription: nothing about it changes by itself. */
  readonly subscription: string | null;
  readonly books: readonly ShownEntryLine[];
  readonly id: string | null;
  readonly state: RefundState | null;
}

/** A refund as pages show it. */
export interface RefundView {
  readonly id: string;
  readonly state: RefundState;
  readonly means: Means;
  readonly currency: string;
  readonly amount: string;
  readonly reason: string;
  readonly says: string;
  readonly askedOn: string;
  readonly askedBy: string;
  readonly expectedOn: string | null;
  readonly settledOn: string | null;
  readonly creditNote: string | null;
}
