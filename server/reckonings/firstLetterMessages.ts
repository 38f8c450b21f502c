import { z } from 'zod';

const id = z.string().regex(/^\d{1,18}$/);

/** What an enrolment that is being typed says of its first letter. */
export const firstLetterSchema = z.strictObject({
  rateId: id,
  customerId: id.optional(),
  /** Of somebody new. */
  name: z.string().trim().max(200).default(''),
  starts: z.iso.date('Give the day it starts on.'),
  /** The first charge; null: there is none. */
  first: z
    .strictObject({
      due: z.string().regex(/^\d{1,18}$/),
      dueOn: z.iso.date(),
      currency: z.string().length(3),
    })
    .nullable(),
  pays: z.enum(['file', 'given', 'asked', 'invoice']),
  firstWords: z.string().trim().max(2000, 'At most 2,000 characters.').default(''),
});
export type FirstLetterMessage = z.input<typeof firstLetterSchema>;

/** A letter as it will be read. */
export interface FirstLetterView {
  readonly subject: string;
  readonly html: string;
  /** Letters of its kind go out. */
  readonly isOn: boolean;
}
