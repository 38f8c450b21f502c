import { z } from 'zod';
import type { FirstDue } from '../../core/listing/firstDues.ts';
import { PAYMENT_KINDS, type PaymentKind } from '../settings/messages.ts';
import { acceptanceSchema, choiceSchema } from '../subscriptions/messages.ts';

const id = z.string().regex(/^\d{1,18}$/);

/** What is to be reckoned: a choice of a plan, for a customer or for somebody whose taxes are told. */
export const reckoningSchema = choiceSchema.extend({
  /** How it is going to be paid: due dates may move to a day that is worked accordingly. */
  paidAs: z.enum(Object.keys(PAYMENT_KINDS) as [PaymentKind, ...PaymentKind[]]).default('card'),
  customer: z
    .union([
      z.strictObject({ id }),
      z.strictObject({
        country: z
          .string()
          .regex(/^([A-Z]{2})?$/)
          .default(''),
        region: z.string().trim().max(60).default(''),
        tax_exempt: z.string().trim().max(200).default(''),
        group: z.string().trim().max(80).default(''),
      }),
    ])
    .default({ country: '', region: '', tax_exempt: '', group: '' }),
});

export { acceptanceSchema };

/** What an enrolment comes to: priced once, and good until a day. */
export interface ReckoningView {
  readonly id: string;
  /** '£19.00 + 20 % VAT = £22.80 every month for 2 × Hive'. */
  readonly says: string;
  readonly currency: string;
  readonly dues: readonly FirstDue[];
  readonly pricedOn: string;
  readonly goodUntil: string;
}
