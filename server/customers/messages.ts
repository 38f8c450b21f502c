import { z } from 'zod';
import { isCountry } from '../../core/words/countries.ts';
import { OPTIONAL_LETTERS, type OptionalLetter } from '../../core/letters/events.ts';
import { isLanguage } from '../../core/words/languages.ts';

import { placeSchema } from './placeMessages.ts';
import { receiptFields, saysWhyNone, WHY_NONE } from './receiptMessages.ts';

const most = (length: number) => z.string().trim().max(length, `At most ${length} characters.`);

/** What is known of a customer and can be changed. */
export const customerSchema = z
  .strictObject({
    name: most(200).min(1, 'Give a name.'),
    email: z.email('Give an e-mail address, such as ada@post.example.').max(200),
    phone: most(40),
    organisation: most(200),
    address: most(500),
    postcode: most(20).default(''),
    /** Where goods go to; null: where they are billed. */
    shipping: placeSchema.nullable().default(null),
    /** The business's own fields, by their labels. */
    fields: z.record(z.string().max(60), most(500)).default({}),
    country: z.string().refine(isCountry, 'Choose a country.').or(z.literal('')),
    region: most(60),
    language: z.string().refine(isLanguage, 'Choose a language.').or(z.literal('')).default(''),
    taxNumber: most(40),
    /** Why no tax is charged; empty for everybody who pays it. */
    taxExempt: most(200),
    /** The group that they belong to, by its name; one that is not there yet is made. */
    group: most(80).default(''),
    ...receiptFields,
  })
  .refine(saysWhyNone, WHY_NONE);

export interface CustomerView extends z.output<typeof customerSchema> {
  readonly id: string;
  readonly reference: string;
  readonly version: number;
  readonly createdOn: string;
}

/** Letters of these kinds a customer gets no more: they, or staff for them, have stopped them. */
export interface StoppedLetters {
  readonly stopped: readonly OptionalLetter[];
}

export const stoppedLettersSchema = z.strictObject({
  stopped: z.array(z.enum(OPTIONAL_LETTERS, 'Choose a letter that need not be.')).max(20),
});

export interface CustomerRow {
  readonly id: string;
  readonly reference: string;
  readonly name: string;
  readonly email: string;
  readonly country: string | null;
  readonly region: string;
  /** Why no tax is charged; empty for everybody who pays it. */
  readonly taxExempt: string;
  readonly group: string | null;
  readonly createdOn: string;
  readonly states: string[];
  readonly plans: string | null;
  readonly subscriptionId: string | null;
  readonly card: string | null;
  readonly cardState: string | null;
  readonly owed: { currency: string; amount: string }[] | null;
}

/** Customers who are asked for a way to pay. */
export const methodRequestSchema = z.strictObject({
  customerIds: z
    .array(z.string().regex(/^\d{1,18}$/))
    .min(1, 'Choose somebody.')
    .max(500, 'At most 500 customers are asked at once.'),
});

/** How many are asked for a way to pay, and who is left out, with why. */
export interface MethodRequest {
  readonly asked: number;
  readonly left: readonly { readonly customer: string; readonly why: string }[];
}

/** The links to a customer's own page that letters carry: how many are good still. */
export interface LinksView {
  readonly good: number;
}

/** A message between a customer and staff. */
export interface CustomerMessage {
  readonly id: string;
  readonly direction: 'in' | 'out';
  readonly says: string;
  readonly writtenOn: string;
  /** Who of the staff; empty where the customer wrote it. */
  readonly writtenBy: string;
  readonly subscriptionId: string | null;
}

/** What staff write to a customer. */
export const toCustomerSchema = z.strictObject({
  says: z.string().trim().min(1, 'Write a few words.').max(2000, 'At most 2,000 characters.'),
});
