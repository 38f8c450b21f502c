import { z } from 'zod';
import { receiptFields, saysWhyNone, WHY_NONE } from './receiptMessages.ts';
import { CONTACT_LETTERS, type ContactLetters, type MomentKind } from './contactKinds.ts';

const most = (length: number) => z.string().trim().max(length, `At most ${length} characters.`);

/** Somebody beside a customer: a treasurer, an accountant, a parent. */
export const contactSchema = z
  .strictObject({
    name: most(200).min(1, 'Give a name.'),
    email: z.email('Give an e-mail address, such as ada@post.example.').max(200),
    phone: most(40).default(''),
    /** What they are to the customer. */
    role: most(80).default(''),
    letters: z
      .array(z.enum(Object.keys(CONTACT_LETTERS) as [ContactLetters, ...ContactLetters[]]))
      .max(3)
      .default([]),
    ...receiptFields,
  })
  .refine(saysWhyNone, WHY_NONE);

export interface ContactView extends z.output<typeof contactSchema> {
  readonly id: string;
  readonly addedOn: string;
}

/** What staff note of a customer, or of one of their subscriptions. */
export const noteSchema = z.strictObject({
  says: z.string().trim().min(1, 'Write a few words.').max(4000, 'At most 4,000 characters.'),
  subscriptionId: z
    .string()
    .regex(/^\d{1,18}$/)
    .nullable()
    .default(null),
});

/** Something that happened with a customer, in words. */
export interface Moment {
  readonly id: string;
  readonly on: string;
  readonly kind: MomentKind;
  readonly says: string;
  /** A quieter word beside it: how it ended, who did it. */
  readonly beside: string;
  /** Where in the interface it stands. */
  readonly to: string | null;
}
