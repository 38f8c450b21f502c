import { z } from 'zod';
import { choiceSchema } from '../subscriptions/messages.ts';

const id = z.string().regex(/^\d{1,18}$/);

/** So many are enrolled at once. */
export const MOST_AT_ONCE = 200;

/** Several customers who are enrolled in the same, each with what they have to pay with. */
export const manySchema = choiceSchema.extend({
  customerIds: z
    .array(id)
    .min(1, 'Choose somebody.')
    .max(MOST_AT_ONCE, `At most ${MOST_AT_ONCE} at once.`)
    .refine((ids) => new Set(ids).size === ids.length, 'Somebody stands here twice.'),
  /** With what is on file, and asked for by mail where there is nothing; or by invoice. */
  pays: z.enum(['card', 'invoice']).default('card'),
});
export type ManyMessage = z.input<typeof manySchema>;

/** What enrolling one of them does or did. */
export interface ManyRow {
  readonly customerId: string;
  readonly name: string;
  /** How they pay: 'Larkfield ending 4242', 'asked for by mail', 'by invoice'. */
  readonly pays: string;
  /** The first charge; null where nothing is charged. */
  readonly first: { readonly dueOn: string; readonly due: string; readonly currency: string } | null;
  /** Why they are left out; null: they are enrolled. */
  readonly left: string | null;
  /** The subscription, once there is one. */
  readonly id: string | null;
}
