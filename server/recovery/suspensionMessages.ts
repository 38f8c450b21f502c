import { z } from 'zod';

const id = z.string().regex(/^\d{1,18}$/);
const date = z.iso.date('Give a day.');

/** Stops collecting from everybody, or from one customer, until a day. */
export const suspensionSchema = z.strictObject({
  customerId: id.nullable(),
  until: date,
  why: z.string().trim().min(1, 'Say why: colleagues read it.').max(500, 'At most 500 characters.'),
});
export type NewSuspension = z.output<typeof suspensionSchema>;

/** Lets it go on before its day; whoever is kept stays stopped by themselves, until a day of their own. */
export const resumeSchema = z.strictObject({
  keep: z.array(z.strictObject({ customerId: id, until: date })).max(500, 'At most 500 customers.'),
});
export type Resuming = z.output<typeof resumeSchema>;

export interface SuspensionView {
  readonly id: string;
  readonly customerId: string | null;
  readonly customer: string | null;
  readonly from: string;
  readonly until: string;
  readonly why: string;
  readonly by: string;
}

/** Something that would have happened, and waits. */
export interface WaitingRow {
  readonly id: string;
  readonly customerId: string;
  readonly customer: string;
  readonly kind: 'charge' | 'step';
  readonly about: string;
  /** The day on which it would have happened. */
  readonly on: string;
  readonly owed: string;
  readonly currency: string;
  readonly to: string;
}

/** What stopping would hold back until its day, as far as it can be known now. */
export interface SuspensionEffect {
  readonly charges: number;
  readonly steps: number;
  readonly sums: readonly { readonly currency: string; readonly amount: string }[];
}
