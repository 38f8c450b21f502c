import { z } from 'zod';
import type { FirstDue } from '../../core/listing/firstDues.ts';
import type { Thread } from '../../core/thread/thread.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../../core/words/signUp/languages.ts';
import type { LabelName } from '../../core/words/signUp/words.ts';
import { readColour } from '../branding/messages.ts';
import { asksSchema, documentsSchema } from '../plans/choiceMessages.ts';
import { POLICY_KINDS } from '../policies/messages.ts';
import { CONTACT_FIELDS, type ContactField } from '../settings/messages.ts';

const id = z.string().regex(/^\d{1,18}$/);
const languages = Object.keys(PAGE_LANGUAGES) as [PageLanguage, ...PageLanguage[]];
const most = (length: number) =>
  z
    .string()
    .trim()
    .max(length, `At most ${length.toLocaleString('en')} characters.`)
    .default('');

/** What of a page can be called otherwise than it usually is. */
export const LABELS = {
  choose: 'What is taken',
  details: 'Who it is for',
  ship: 'Where it is shipped to',
  pay: 'How it is paid',
  join: 'The button that joins',
  thanks: 'The heading once somebody has joined',
} as const satisfies Readonly<Record<LabelName, string>>;

/** The steps of a page in their order; a visit is left at one of them. */
export const STEPS = ['seen', 'choosing', 'details', 'paying', 'joined'] as const;

/** How customers can pay on a page, as the rate allows it. */
export const PAGE_METHODS = {
  card: 'Card',
  'bank debit': 'Bank debit',
  'online transfer': 'Online transfer',
  invoice: 'By invoice',
} as const;
export type PageMethod = keyof typeof PAGE_METHODS;

const asked = z
  .enum(['setup', 'no', 'optional', 'required'], 'Choose whether this is asked.')
  .default('setup');
export type Asked = z.output<typeof asked>;

const colourOrNone = z
  .string()
  .transform((text, context) => {
    if (text.trim() === '') return '';
    const read = readColour(text);
    if (read !== null) return read;
    context.addIssue({ code: 'custom', message: 'Give a colour, such as #0e6655, or none.' });
    return z.NEVER;
  })
  .pipe(z.string());

/** What a page says in one language. */
export const pageTextsSchema = z.strictObject({
  title: z.string().trim().min(1, 'Give the page a title.').max(120, 'At most 120 characters.'),
  /** Formatted text: a few elements of HTML, made safe before it is stored. */
  text: most(20_000),
  /** Formatted too: what stands there once somebody has joined. */
  after: most(20_000),
  /** Other names for parts of the page; what is not named keeps its usual name. */
  labels: z
    .partialRecord(
      z.enum(Object.keys(LABELS) as [LabelName, ...LabelName[]]),
      z.string().trim().max(60, 'At most 60 characters.'),
    )
    .default({}),
});
export type PageTexts = z.output<typeof pageTextsSchema>;

/** A page on which customers join by themselves. */
export const signUpPageSchema = z.strictObject({
  /** Its part of the address, which letters and sites link to. */
  key: z
    .string()
    .trim()
    .regex(/^[a-z0-9][a-z0-9-]{0,59}$/, 'An address has small letters, digits and hyphens, at most 60.')
    .refine((key) => key !== 'assets' && key !== 'preview', 'This address is taken by the almanac itself.'),
  /** The rates that are offered, in their order. */
  rates: z.array(id).min(1, 'Offer at least one rate.').max(30, 'At most 30 rates.'),
  /** The one that is offered first. */
  firstRate: id,
  /** The language that it is read in where a browser asks for none of these. */
  language: z.enum(languages).default('en'),
  texts: z
    .partialRecord(z.enum(languages), pageTextsSchema)
    .refine((texts) => Object.keys(texts).length > 0, 'Write the page in one language at least.'),
  /** Uploads of kind picture. */
  pictures: z.array(id).max(6, 'At most 6 pictures.').default([]),
  look: z
    .strictObject({
      /** A band in the main colour, or the logo on white. */
      header: z.enum(['band', 'plain']).default('plain'),
      /** Empty: the colours of Setup, Look. */
      mainColour: colourOrNone.default(''),
      accentColour: colourOrNone.default(''),
    })
    .prefault({}),
  /** What is asked of a customer: as Setup says, or more, or less. */
  ask: z
    .strictObject(
      Object.fromEntries(Object.keys(CONTACT_FIELDS).map((field) => [field, asked])) as Record<
        ContactField,
        typeof asked
      >,
    )
    .prefault({}),
  /** The same of the business's own fields, by their labels; one that is not named is as Setup says. */
  fields: z.record(z.string().max(60), asked).default({}),
  /** What this page asks beside its plans. */
  questions: asksSchema.default([]),
  /** Most that may be taken of what has a quantity; null: it is not chosen, one is taken. */
  quantityMost: z
    .int('Give a whole number.')
    .min(2, 'At least 2.')
    .max(1_000_000, 'At most 1,000,000.')
    .nullable()
    .default(null),
  codes: z.boolean().default(false),
  /** The customer may say on which day it starts, at most so many days ahead; null: it starts at once. */
  startWithin: z
    .int('Give whole days.')
    .min(1, 'At least 1.')
    .max(92, 'At most 92 days.')
    .nullable()
    .default(null),
  /** The customer may choose the day of the month on which they are charged. */
  billingDay: z.boolean().default(false),
  /** The ways of payment that are taken here, of those that a rate allows. */
  methods: z
    .array(z.enum(Object.keys(PAGE_METHODS) as [PageMethod, ...PageMethod[]]))
    .min(1, 'Take at least one way of payment.')
    .default(['card', 'bank debit', 'online transfer', 'invoice']),
  /** The policies that are to be agreed to. */
  policies: z.array(z.enum(POLICY_KINDS)).default([]),
  /** The last day on which one can join; null: none. */
  until: z.iso.date('Give the day.').nullable().default(null),
  /** How many may join; null: any number. */
  places: z
    .int('Give a whole number.')
    .min(1, 'At least 1.')
    .max(1_000_000, 'At most 1,000,000.')
    .nullable()
    .default(null),
  /** Given to whoever has joined. */
  documents: documentsSchema.default([]),
  /** Where whoever has joined is sent; empty: they stay. */
  redirect: z
    .url({ protocol: /^https?$/, error: 'Give an address that begins with https://, or leave it empty.' })
    .max(2000, 'At most 2,000 characters.')
    .or(z.literal(''))
    .default(''),
});
export type SignUpPageValue = z.output<typeof signUpPageSchema>;
export type SignUpPageInput = z.input<typeof signUpPageSchema>;

/** How often a page was seen, and how far its visitors came; those who joined and what they bring a month. */
export interface PageNumbers {
  /** By {@link STEPS}: how many came so far, or farther. */
  readonly reached: readonly number[];
  readonly monthly: readonly { readonly currency: string; readonly amount: string }[];
  readonly days: number;
}

/** Why nobody can join on a page now, in a word; null where one can. */
export type Closed = 'off' | 'over' | 'full' | 'nothing' | null;

/** A page in the list of staff. */
export interface SignUpPageRow {
  readonly id: string;
  readonly key: string;
  readonly title: string;
  readonly plans: string;
  readonly isOn: boolean;
  readonly closed: Closed;
  /** In words. */
  readonly state: string;
  readonly until: string | null;
  readonly places: number | null;
  readonly joined: number;
  readonly seen: number;
  readonly monthly: readonly { readonly currency: string; readonly amount: string }[];
  readonly archivedOn: string | null;
}

/** A page as staff edit it. */
export interface SignUpPageForStaff {
  readonly id: string;
  readonly version: number;
  readonly changedBy: string;
  readonly value: SignUpPageValue;
  readonly isOn: boolean;
  readonly closed: Closed;
  readonly joined: number;
  readonly archivedOn: string | null;
  readonly picturesAt: readonly string[];
  readonly documentsAt: readonly string[];
  readonly numbers: PageNumbers;
  /** The address that customers open. */
  readonly address: string;
  /** What cannot be sold of it any more, in words. */
  readonly faults: readonly string[];
  /** From where cards were tried and declined, one after the other. */
  readonly tried: readonly { readonly address: string; readonly declined: number }[];
}

/** What a rate costs, said by whoever shows it. */
export interface OfferedRateView {
  readonly id: string;
  readonly planId: string;
  readonly name: string;
  readonly currency: string;
  /** Decimals of the currency. */
  readonly digits: number;
  /** With its taxes, minor units; null where it depends on what is chosen. */
  readonly each: string | null;
  /** Of one's own amount: what is suggested and what is allowed, major units. */
  readonly chosen: {
    readonly suggested: string;
    readonly min: string | null;
    readonly max: string | null;
  } | null;
  readonly interval: { readonly count: number; readonly unit: 'D' | 'W' | 'M' | 'Y' } | null;
  /** So many payments, and it ends; null: it goes on, or is sold once. */
  readonly payments: number | null;
  readonly instalments: boolean;
  readonly trial: string | null;
  /** One says how many of it. */
  readonly counted: boolean;
  /** What it saves against another one; below zero: it costs more. Minor units. */
  readonly saves: {
    readonly basis: 'a year' | 'in all' | 'each time, bought once';
    readonly amount: string;
    readonly percent: string;
    readonly than: string;
  } | null;
  readonly methods: readonly PageMethod[];
  /** A trial that begins without a method. */
  readonly methodLater: boolean;
}

export interface OfferedPlanView {
  readonly id: string;
  readonly name: string;
  readonly text: string;
  readonly picture: string | null;
  readonly isGoods: boolean;
  readonly documents: readonly { readonly name: string; readonly at: string }[];
  readonly asks: z.output<typeof asksSchema>;
  readonly variants: readonly {
    readonly id: string;
    readonly name: string;
    readonly says: string;
    readonly rates: readonly string[];
  }[];
  readonly extras: readonly {
    readonly key: string;
    readonly name: string;
    readonly currency: string;
    readonly how: 'required' | 'preselected' | 'offered';
    readonly when: 'recurring' | 'once';
    readonly min: number;
    readonly max: number;
    /** For one, without tax, minor units; null where it is not one amount. */
    readonly each: string | null;
  }[];
}

/** A page as whoever opens it gets it. */
export interface PublicPage {
  readonly key: string;
  readonly version: number;
  readonly closed: Closed;
  readonly business: string;
  readonly writeTo: string;
  readonly today: string;
  /** By which dates and figures are written. */
  readonly locale: string;
  /** Decimals of the currencies that are on it. */
  readonly digits: Readonly<Record<string, number>>;
  readonly language: PageLanguage;
  readonly languages: readonly PageLanguage[];
  readonly look: {
    readonly header: 'band' | 'plain';
    /** The colours, each as it can be read on what it stands on. */
    readonly main: string;
    readonly onMain: string;
    readonly heading: string;
    readonly accent: string;
    readonly logo: string | null;
    readonly icon: string | null;
  };
  readonly title: string;
  readonly text: string;
  readonly labels: Readonly<Partial<Record<LabelName, string>>>;
  readonly pictures: readonly string[];
  readonly plans: readonly OfferedPlanView[];
  readonly rates: readonly OfferedRateView[];
  readonly firstRate: string;
  readonly ask: Readonly<Record<ContactField, 'no' | 'optional' | 'required'>>;
  readonly fields: readonly { readonly label: string; readonly required: boolean }[];
  readonly questions: z.output<typeof asksSchema>;
  readonly quantityMost: number | null;
  readonly codes: boolean;
  readonly startWithin: number | null;
  readonly billingDay: boolean;
  readonly placesLeft: number | null;
  readonly until: string | null;
  readonly serves: readonly string[];
  readonly shipsTo: readonly string[];
  readonly country: string;
  readonly policies: readonly {
    readonly id: string;
    readonly kind: string;
    readonly version: number;
    readonly text: string;
  }[];
  /** The business practises: it has cards to try it with. */
  readonly practice: boolean;
  /** This is a rehearsal: whatever is done, nothing is kept. */
  readonly rehearsal: boolean;
}

const typedAmount = z
  .string()
  .trim()
  .regex(/^\d{1,15}(\.\d{1,4})?$/, 'Give an amount such as 15.00.');

/** What is chosen on a page. */
export const pageChoiceSchema = z.strictObject({
  rateId: id,
  quantity: z.int('Give a whole number.').min(1, 'At least 1.').max(1_000_000).optional(),
  amount: typedAmount.optional(),
  variantId: id.optional(),
  extras: z.record(z.string().max(60), z.int().min(0).max(1_000_000)).default({}),
  answers: z.record(z.string().max(80), z.string().trim().max(1000, 'At most 1,000 characters.')).default({}),
  codes: z.array(z.string().trim().min(1).max(40)).max(5, 'At most 5 codes.').default([]),
  starts: z.iso.date('Give the day it starts on.').optional(),
  billingDay: z
    .union([z.int().min(1).max(31), z.literal('last')], 'Give a day, 1 to 31, or the last.')
    .optional(),
});
export type PageChoice = z.output<typeof pageChoiceSchema>;

/** A question of what a choice comes to, by the taxes of where somebody lives. */
export const quoteSchema = z.strictObject({
  choice: pageChoiceSchema,
  country: z
    .string()
    .regex(/^([A-Z]{2})?$/)
    .default(''),
  region: z.string().trim().max(60).default(''),
  pays: z.enum(['card', 'bank debit', 'online transfer', 'invoice']).default('card'),
});

/** A part of a first payment: what it is, of which line, how many days of it. */
export interface QuotedPart {
  readonly what: 'line' | 'stub' | 'setup' | 'once' | 'trial';
  readonly name: string;
  readonly quantity: number;
  readonly days: number;
  readonly until: string;
  readonly amount: string;
}

/** What a choice comes to, before anything is agreed to. */
export interface Quote {
  readonly currency: string;
  readonly dues: readonly FirstDue[];
  /** What is charged on the day itself, minor units, with its taxes. */
  readonly now: string;
  /** The rates of the taxes that it holds. */
  readonly taxes: readonly string[];
  /** What the first payment is made of, where it is not simply a period's; taxes within. */
  readonly first: readonly QuotedPart[];
  readonly starts: string;
  readonly trialEnds: string | null;
  readonly ends: string | null;
  /** In all, where it ends; minor units. */
  readonly inAll: string | null;
  readonly thread: Thread;
  readonly takesCards: boolean;
  readonly gateway: {
    readonly url: string;
    readonly publicKey: string;
    readonly holder: 'no' | 'optional' | 'required';
  } | null;
  readonly bank: { readonly url: string; readonly publicKey: string } | null;
}

const text = (length: number) => z.string().trim().max(length, `At most ${length} characters.`).default('');
const visit = z.uuid().transform((text) => text.toLowerCase());

/** How far a visitor has come. */
export const visitSchema = z.strictObject({ visit, step: z.int().min(0).max(3) });

/** Somebody joins: what they chose, who they are, how they pay, what they agreed to and were shown. */
export const joinSchema = z.strictObject({
  visit,
  /** The version of the page that was filled in. */
  version: z.int().min(1),
  language: z.enum(languages),
  choice: pageChoiceSchema,
  /** What the page asks, by its labels. */
  questions: z
    .record(z.string().max(80), z.string().trim().max(1000, 'At most 1,000 characters.'))
    .default({}),
  customer: z.strictObject({
    name: z.string().trim().min(1, 'Give your name.').max(200, 'A name has at most 200 characters.'),
    email: z.email('Give an e-mail address, such as ada@post.example.').max(200),
    phone: text(40),
    organisation: text(200),
    address: text(500),
    postcode: text(20),
    region: text(60),
    country: z
      .string()
      .regex(/^([A-Z]{2})?$/, 'Choose a country.')
      .default(''),
    language: text(2),
    tax_number: text(40),
    fields: z.record(z.string().max(60), z.string().trim().max(500, 'At most 500 characters.')).default({}),
    /** Where goods go to; null: where they are billed. */
    shipping: z
      .strictObject({
        name: text(200),
        address: z.string().trim().min(1, 'Give the address.').max(500, 'At most 500 characters.'),
        postcode: text(20),
        region: text(60),
        country: z.string().regex(/^[A-Z]{2}$/, 'Choose a country.'),
      })
      .nullable()
      .default(null),
  }),
  pays: z.enum(['card', 'bank debit', 'online transfer', 'invoice', 'later']),
  cardToken: z.string().min(8).max(100).optional(),
  bankToken: z.string().min(8).max(100).optional(),
  /** The ids of the policies, in the very versions that were shown. */
  agreed: z.array(id).max(10).default([]),
  /** The first charges as they were shown. */
  shown: z.array(z.strictObject({ dueOn: z.iso.date(), due: z.string().regex(/^\d{1,18}$/) })).max(12),
  /** A field that people do not see: whoever fills it is a program. */
  website: z.string().max(500).default(''),
});
export type JoinMessage = z.input<typeof joinSchema>;

/** What became of joining. */
export interface Joined {
  readonly currency: string;
  /** What was charged, to what; null where nothing was due. */
  readonly charged: {
    readonly amount: string;
    readonly method: string;
    readonly outcome: 'collected' | 'by hand' | 'under way' | 'to confirm' | 'declined';
  } | null;
  readonly coming: readonly FirstDue[];
  readonly trialEnds: string | null;
  readonly after: string;
  readonly documents: readonly { readonly name: string; readonly at: string }[];
  readonly redirect: string;
  /** The customer's own page; null in a rehearsal. */
  readonly own: string | null;
}
