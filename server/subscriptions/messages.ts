import type { AgreementView } from '../reckonings/agreementMessages.ts';
import type { AttemptState } from '../payments/states.ts';
import { z } from 'zod';
import { isCountry } from '../../core/words/countries.ts';
import { isLanguage } from '../../core/words/languages.ts';
import type { ChosenExtra } from '../../core/offer/extras.ts';
import type { LawData } from '../../core/terms/law.ts';
import type { PaymentKind, SectionValue } from '../settings/messages.ts';
import type { Thread } from '../../core/thread/thread.ts';
import { contactSchema } from '../customers/contactMessages.ts';
import { enrolmentFilesSchema } from '../customers/fileMessages.ts';
import { placeSchema, type Place } from '../customers/placeMessages.ts';
import { METHOD_ROLES } from '../customers/methodMessages.ts';
import type { SubscriptionState, WithoutMethod } from './states.ts';

const id = z.string().regex(/^\d{1,18}$/);
const contact = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');

const typedAmount = z
  .string()
  .trim()
  .regex(/^\d{1,15}(\.\d{1,4})?$/, 'Give an amount such as 15.00.');

/** What is agreed with one customer otherwise than the rate has it. */
const ownTermsSchema = z.strictObject({
  /** Days from an invoice to its due day. */
  termDays: z.int('Give a number of days.').min(0).max(365, 'At most 365 days.').optional(),
  /** The day of the month on which periods begin. */
  billingDay: z
    .union([z.int().min(1).max(31), z.literal('last')], 'Give a day, 1 to 31, or the last.')
    .optional(),
  /** Instead of the rate's set-up amount; 0: none. */
  setUp: typedAmount.optional(),
  /** No tax is charged, for this reason, which stands on every invoice. */
  noTaxBecause: z.string().trim().min(3, 'Say why.').max(200, 'At most 200 characters.').optional(),
  discount: z
    .strictObject({
      percent: z
        .string()
        .regex(/^(100|\d{1,2}(\.\d{1,4})?)$/, 'Give a percentage from 0 to 100.')
        .optional(),
      amount: typedAmount.optional(),
      payments: z.int().min(1, 'Give a number of payments.').max(1000).optional(),
    })
    .refine(
      ({ percent, amount }) => (percent === undefined) !== (amount === undefined),
      'Give one of the two.',
    )
    .optional(),
  lines: z
    .array(
      z.strictObject({
        name: z.string().trim().min(1, 'Say what it is.').max(200, 'At most 200 characters.'),
        amount: typedAmount,
        when: z.enum(['recurring', 'once']),
      }),
    )
    .max(20, 'At most 20 lines.')
    .optional(),
  /** Days of a trial instead of the rate's; 0: none. */
  trialDays: z.int('Give a number of days.').min(0).max(366, 'At most 366 days.').optional(),
  /** Stands on every invoice. */
  note: z.string().trim().max(500, 'At most 500 characters.').optional(),
});

/** What was given for the business's own fields of a customer, by their labels. */
const ownFieldsSchema = z
  .record(z.string().max(60), z.string().trim().max(500, 'At most 500 characters.'))
  .default({});

/** What is chosen of a rate, whether it begins by itself or its lines are charged with another. */
const lineChoice = {
  rateId: id,
  quantity: z.int().min(1).max(1_000_000_000).optional(),
  /** The customer's own amount, where the rate leaves it to them; major units. */
  amount: typedAmount.optional(),
  /** Which of the plan's variants, where it has some. */
  variantId: id.optional(),
  /** A rate card to apply; null: none; absent: the one of the customer's group, if there is one. */
  rateCardId: id.nullable().optional(),
  /** How many of each extra line, by its key; 0 leaves one out; absent: as the plan offers it. */
  extras: z.record(z.string().max(60), z.int().min(0).max(1_000_000)).default({}),
  /** What the plan asks, by its labels. */
  answers: z.record(z.string().max(80), z.string().trim().max(1000, 'At most 1,000 characters.')).default({}),
};

/** What is chosen of a plan's rate: what a reckoning is made of. */
export const choiceSchema = z.strictObject({
  ...lineChoice,
  starts: z.iso.date('Give the day it starts on.'),
  /** The last day served, of this subscription alone; absent: as the rate says. */
  lastDay: z.iso.date('Give the last day.').optional(),
  /** Codes of discounts, more than one only where each stacks, or of a rate card. */
  codes: z.array(z.string().trim().min(1).max(40)).max(5, 'At most 5 codes.').default([]),
  own: ownTermsSchema.default({}),
  /** Rates of other plans whose lines are charged with it, on its dates. */
  beside: z.array(z.strictObject(lineChoice)).max(5, 'At most 5 other plans.').default([]),
  /** Where it is served or shipped to; absent: goods go to the customer's shipping address, all else is served where they live. */
  place: placeSchema.optional(),
});

/** Who takes it, how they pay, and what they were shown. */
export const acceptanceSchema = z.strictObject({
  customer: z.union(
    [
      z.strictObject({ id }),
      z.strictObject({
        name: z.string().trim().min(1, 'Give a name.').max(200, 'A name has at most 200 characters.'),
        email: z.email('Give an e-mail address, such as ada@post.example.').max(200),
        phone: contact(40),
        organisation: contact(200),
        address: contact(500),
        postcode: contact(20),
        shipping: placeSchema.nullable().default(null),
        /** The business's own fields, by their labels. */
        fields: ownFieldsSchema,
        country: z.string().refine(isCountry, 'Choose a country.').or(z.literal('')).default(''),
        region: contact(60),
        /** ISO 639-1; empty: they read that of the business. */
        language: z.string().refine(isLanguage, 'Choose a language.').or(z.literal('')).default(''),
        tax_number: contact(40),
        /** Why no tax is charged; empty for everybody who pays it. */
        tax_exempt: contact(200),
        /** The group of customers that they belong to; one that is not there yet is made. */
        group: contact(80),
        /** Somebody else than whoever has the same e-mail address already. */
        another: z.boolean().default(false),
      }),
    ],
    'Choose a customer, or give a name and an e-mail address.',
  ),
  /** The first charges as they were shown before it was agreed to: it is refused where they come out otherwise. */
  shown: z
    .array(z.strictObject({ dueOn: z.iso.date(), due: z.string().regex(/^\d{1,18}$/) }))
    .max(12)
    .optional(),
  /** Words of staff in the first letter, and whether there is one. */
  firstWords: z.string().trim().max(2000, 'At most 2,000 characters.').default(''),
  firstLetter: z.boolean().default(true),
  /** The rate was made for this customer alone: it is archived once it is taken. */
  rateOnce: z.boolean().default(false),
  /** The customer is asked to agree to the terms of service on their own page, before they pay there. */
  asksTerms: z.boolean().default(false),
  /** People beside the customer who get letters too, from the first on. */
  contacts: z.array(contactSchema).max(5, 'At most 5 at once.').default([]),
  /** Documents that were sent ahead, and the letters that they go with. */
  files: enrolmentFilesSchema,
  /** A note for staff alone, kept with the subscription. */
  staffNote: z.string().trim().max(4000, 'At most 4,000 characters.').default(''),
  /** What a card that is given now is to be: the primary one, the fallback, or this subscription's own. */
  cardRole: z.enum(METHOD_ROLES).default('primary'),
  /** It was read on the reader, its holder being there. */
  read: z.boolean().default(false),
  /** One of the cards on file; absent: the one that the customer's others are charged to. */
  methodId: id.optional(),
  /**
   * What the customer pays with: what is on file or a card given now, a bank account given now, one that we ask them for by mail or by a link that staff hand
   * on (nothing is charged before, and it is no case), or by invoice.
   */
  pays: z.enum(['card', 'bank', 'mail', 'link', 'transfer', 'invoice']).default('card'),
  /** The business's own invoice fields, by their labels. */
  invoiceFields: z
    .record(z.string().max(60), z.string().trim().max(120, 'At most 120 characters.'))
    .default({}),
  /** The gateway's token for the card: its number never comes here. */
  cardToken: z.string().min(8).max(100).optional(),
  /** The same for a bank account. */
  bankToken: z.string().min(8).max(100).optional(),
  /** The gateway account that it was given to, where staff chose one. */
  keptAt: id.optional(),
});

/** A choice, reckoned and accepted in one; and others beside it, each a subscription of its own, paid likewise. */
export const enrolmentSchema = choiceSchema.extend({
  ...acceptanceSchema.shape,
  also: z.array(choiceSchema).max(5, 'At most five others.').default([]),
  /** The draft that it was, which is taken up with it. */
  draft: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
});
export type EnrolmentMessage = z.input<typeof enrolmentSchema>;

export interface EnrolmentForm {
  readonly ask: SectionValue<'customers'>['ask'];
  readonly serves: readonly string[];
  /** Countries that goods are shipped to; none: wherever is served. */
  readonly shipsTo: readonly string[];
  /** The business's own fields of a customer. */
  readonly ownFields: readonly { readonly label: string; readonly required: boolean }[];
  readonly invoiceFields: readonly { readonly label: string; readonly required: boolean }[];
  readonly law: LawData;
  /** Where due dates move that fall on a day not worked, by how it is paid. */
  readonly shifts: Readonly<Record<PaymentKind, 'next' | 'previous' | null>>;
  readonly defaultTax: string | null;
  /** The term of payment of rates made from now on, in days. */
  readonly paymentTermDays: number;
  /** The version of the terms of service that is agreed to now. */
  readonly termsVersion: number | null;
}

export interface SubscriptionRow {
  readonly id: string;
  readonly customerId: string;
  readonly customer: string;
  readonly plan: string;
  readonly rate: string;
  readonly startsOn: string;
  readonly endsOn: string | null;
  readonly says: string;
  readonly state: SubscriptionState;
  readonly currency: string;
  readonly nextOn: string | null;
  readonly nextAmount: string | null;
  /** 'Larkfield ending 4242', 'by hand', 'no card'. */
  readonly method: string;
  /** What hinders its next payment, in words; null where nothing does. */
  readonly cannotCharge: string | null;
  readonly thread: Thread;
}

export interface AttemptView {
  readonly id: string;
  readonly date: string;
  readonly amount: string;
  readonly card: string;
  readonly state: AttemptState;
  /** Plain words: 'collected', or why it was declined. */
  readonly says: string;
  readonly reason: string;
}

export interface InvoiceLineView {
  readonly name: string;
  readonly quantity: number;
  readonly amount: string;
  /** Of a line that settles a change: what it is, in words. */
  readonly settles: string | null;
}

export interface InvoiceView {
  readonly id: string;
  readonly number: string;
  readonly kind: string;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly issuedOn: string;
  readonly dueOn: string;
  readonly total: string;
  readonly collected: string;
  readonly owed: string;
  readonly state: string;
  readonly lines: readonly InvoiceLineView[];
  readonly fields: readonly { label: string; value: string }[];
  readonly attempts: readonly AttemptView[];
  /** Its dated parts, where it has several; what is owed of each. */
  readonly dues: readonly { readonly dueOn: string; readonly amount: string; readonly owed: string }[];
}

export interface ComingPayment {
  readonly from: string;
  readonly dueOn: string;
  readonly kind: string;
  /** With its tax. */
  readonly due: string;
  /** The tax in it; absent of a part of an invoice, which has none of its own. */
  readonly tax?: string;
}

export interface SubscriptionView extends SubscriptionRow {
  /** Since when its service is stopped by a ladder, until what is owed is paid. */
  readonly serviceStoppedOn: string | null;
  readonly startsOn: string;
  readonly endsOn: string | null;
  readonly closedOn: string | null;
  readonly endedWhy: string | null;
  readonly trialEndsOn: string | null;
  readonly email: string;
  readonly card: { readonly says: string; readonly expires: string | null; readonly state: string } | null;
  /** What was agreed to when it began; null where that was not kept yet. */
  readonly agreement: AgreementView | null;
  /** The cards that are tried after it, in their turn. */
  readonly then: readonly string[];
  /** The method that comes first for it alone. */
  readonly ownMethodId: string | null;
  readonly openCase: { readonly id: string; readonly says: string } | null;
  readonly invoices: readonly InvoiceView[];
  readonly coming: readonly ComingPayment[];
  readonly planId: string;
  readonly rateId: string;
  readonly variant: { readonly id: string; readonly name: string } | null;
  readonly rateCard: { readonly id: string; readonly name: string } | null;
  readonly extras: readonly ChosenExtra[];
  readonly answers: readonly { readonly label: string; readonly value: string }[];
  readonly collects: 'automatic' | 'by hand';
  readonly invoicing: 'each' | 'whole';
  /** So many days before it begins each period is invoiced. */
  readonly issueBefore: number;
  /** Whether it is paid in instalments, which run to their end. */
  readonly instalments: boolean;
  readonly cancelledBy: 'customer' | 'business' | null;
  readonly withoutMethod: WithoutMethod | null;
  /** Where it is served or shipped to; null: where its customer is billed. */
  readonly place: (Place & { readonly says: string }) | null;
  /** How many of the first line, where its price looks at that. */
  readonly quantity: number | null;
}
