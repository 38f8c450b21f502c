import { PAGE_LANGUAGES, type PageLanguage } from '../../core/words/signUp/languages.ts';
import { z } from 'zod';
import { exponentOf } from '../../core/money/currency.ts';
import { WEEKDAYS } from '../../core/dates/weekday.ts';
import { isCountry } from '../../core/words/countries.ts';
import { readColour } from '../branding/messages.ts';

/**
 * The sections of Setup: what each may hold. One schema a section, shared by the server and the forms. A section
 * is stored as one value with a version of its own.
 */

const line = (most: number, missing: string) =>
  z.string().trim().min(1, missing).max(most, `At most ${most} characters.`);
const lineOrNone = (most: number) => z.string().trim().max(most, `At most ${most} characters.`);
const email = (missing: string) => z.email(missing).max(254, 'An address has at most 254 characters.');
const country = z.string().refine(isCountry, 'Choose a country.');

function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** Languages that letters and customers' pages are written in. */
export const LANGUAGES = PAGE_LANGUAGES;

/** Statement texts that any gateway takes; the accounts connected may allow less (`statementFaults`). */
export const statementText = z
  .string()
  .trim()
  .regex(
    /^[A-Z0-9 .*-]{1,22}$/,
    'Give at most 22 capitals, digits, spaces, points, stars or hyphens: what a bank prints.',
  );

export const businessSection = z.strictObject({
  name: line(120, 'Give the name your customers know.'),
  legalName: lineOrNone(200),
  address: lineOrNone(500),
  country: country.or(z.literal('')),
  taxNumber: lineOrNone(40),
  timeZone: z.string().refine(isTimeZone, 'Give a time zone such as Europe/London.'),
  homeCurrency: z
    .string()
    .refine((code) => exponentOf(code) !== null, 'Give a currency of ISO 4217, such as GBP.'),
  language: z.enum(
    Object.keys(LANGUAGES) as [PageLanguage, ...PageLanguage[]],
    'Choose a language that letters are written in.',
  ),
  contactAddress: email('Give an address that customers can write to.').or(z.literal('')),
  replyAddress: email('Give an address that answers go to, or leave it empty.').or(z.literal('')),
  statementText,
});

const colour = z
  .string()
  .transform((text, context) => {
    const read = readColour(text);
    if (read !== null) return read;
    context.addIssue({ code: 'custom', message: 'Give a colour, such as #0e6655 or rgb(14, 102, 85).' });
    return z.NEVER;
  })
  .pipe(z.string());
const upload = z
  .string()
  .regex(/^\d{1,18}$/)
  .nullable();

export const brandingSection = z.strictObject({
  logo: upload,
  icon: upload,
  mainColour: colour,
  accentColour: colour,
});

/** Most fields of one's own that customers have. */
export const MOST_CUSTOMER_FIELDS = 20;

/** Fields of the business's own, each with a name and whether it must be filled. */
const ownFields = (most: number, example: string) =>
  z
    .array(
      z.strictObject({
        label: line(60, `Give the field a name, such as ${example}.`),
        required: z.boolean(),
      }),
    )
    .max(most, `At most ${most} fields.`)
    .refine(
      (fields) => new Set(fields.map(({ label }) => label.toLowerCase())).size === fields.length,
      'Two fields have the same name.',
    );

/** Most fields of one's own that an invoice carries. */
export const MOST_INVOICE_FIELDS = 6;

/** So many days before an invoice falls due its customer is reminded of it, where nothing else is set. */
export const USUAL_REMINDER_DAYS = 3;

/** How lines are printed: as amounts alone, or with how many and the price of one. */
export const LINE_COLUMNS = {
  amount: 'What it is for and its amount',
  'quantity and price': 'How many, the price of one, and the amount',
} as const;
export type LineColumns = keyof typeof LINE_COLUMNS;

const documentPrefix = z
  .string()
  .trim()
  .max(20, 'A prefix has at most 20 characters.')
  .regex(/^[\p{L}\p{N}./_-]*$/u, 'A prefix has letters, digits, points, slashes, hyphens or underscores.');

const lineColumns = z.enum(
  Object.keys(LINE_COLUMNS) as [LineColumns, ...LineColumns[]],
  'Choose how lines are printed.',
);

/** What a plan has printed on its invoices in place of what Setup says for all; empty and null: that. */
export const onInvoicesSchema = z.strictObject({
  note: lineOrNone(1000).default(''),
  footer: lineOrNone(1000).default(''),
  columns: lineColumns.nullable().default(null),
});
export type OnInvoices = z.output<typeof onInvoicesSchema>;

export const invoicingSection = z
  .strictObject({
    prefix: documentPrefix,
    creditNotePrefix: documentPrefix.default('CN-'),
    columns: lineColumns.default('amount'),
    /** Null: nobody is reminded before. */
    remindDaysBefore: z
      .int('Give whole days.')
      .min(1, 'At least the day before.')
      .max(60, 'At most 60 days.')
      .nullable()
      .default(USUAL_REMINDER_DAYS),
    nextNumber: z
      .int('Give a whole number.')
      .min(1, 'Numbers start from 1.')
      .max(999_999_999_999, 'At most 12 digits.'),
    paymentTermDays: z.int('Give whole days.').min(0, 'Give 0 days or more.').max(365, 'At most 365 days.'),
    note: lineOrNone(1000),
    footer: lineOrNone(1000),
    fields: ownFields(MOST_INVOICE_FIELDS, 'Purchase order'),
  })
  .refine(({ prefix, creditNotePrefix }) => prefix !== creditNotePrefix, {
    message: 'Invoices and credit notes count by themselves: give them prefixes that differ.',
    path: ['creditNotePrefix'],
  });

/** What may be asked of a customer beside name and e-mail. */
export const CONTACT_FIELDS = {
  phone: 'Telephone',
  organisation: 'Organisation',
  address: 'Address',
  country: 'Country',
  language: 'Language',
  tax_number: 'Tax number',
} as const;
export type ContactField = keyof typeof CONTACT_FIELDS;
const asked = z.enum(['no', 'optional', 'required'], 'Choose whether this is asked.');

export const customersSection = z.strictObject({
  /** Countries served; none named means everywhere. */
  serves: z.array(country).max(249),
  /** Countries that goods are shipped to; none named means wherever is served. */
  shipsTo: z.array(country).max(249),
  /** Where a trial's end must be told of so many days before. */
  trialNotices: z
    .array(
      z.strictObject({
        country,
        days: z.int('Give whole days.').min(1, 'At least 1.').max(90, 'At most 90 days.'),
      }),
    )
    .max(249)
    .refine(
      (notices) => new Set(notices.map((one) => one.country)).size === notices.length,
      'A country stands here twice.',
    )
    .default([]),
  ask: z.strictObject({
    phone: asked,
    organisation: asked,
    address: asked,
    country: asked,
    language: asked.default('no'),
    tax_number: asked,
  }),
  /** Fields of the business's own. */
  fields: ownFields(MOST_CUSTOMER_FIELDS, 'Member since').default([]),
  /** The name on a card that is typed. */
  cardholder: asked.default('no'),
});

const clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'Give a time as 21:00.');

export const mailSection = z
  .strictObject({
    senderName: lineOrNone(120).refine((text) => !/[\r\n]/.test(text), 'A name is one line.'),
    senderAddress: email('Give the address that letters come from.'),
    replyName: lineOrNone(120).refine((text) => !/[\r\n]/.test(text), 'A name is one line.'),
    quietFrom: clock.or(z.literal('')),
    quietTo: clock.or(z.literal('')),
    /** Letters that the mail server takes in a second; null: as many as it will. */
    mostPerSecond: z.int('Give a whole number.').min(1, 'At least 1.').max(1000, 'At most 1000.').nullable(),
    server: z
      .strictObject({
        host: line(253, 'Give the mail server, such as smtp.post.example.').regex(
          /^[a-zA-Z0-9.:-]+$/,
          'A server name has letters, digits, points and hyphens.',
        ),
        port: z.int('Give a port.').min(1).max(65_535, 'A port is at most 65535.'),
        security: z.enum(['tls', 'starttls', 'none'], 'Choose how the connection is protected.'),
        user: lineOrNone(200),
        /** Only ever sent to us, never back: empty keeps the one that is stored. */
        password: z.string().max(500),
        hasPassword: z.boolean().optional(),
      })
      .nullable(),
  })
  .refine(({ quietFrom, quietTo }) => (quietFrom === '') === (quietTo === ''), {
    message: 'Give both ends of the quiet hours, or neither.',
    path: ['quietTo'],
  })
  .refine(({ quietFrom, quietTo }) => quietFrom === '' || quietFrom !== quietTo, {
    message: 'Quiet hours end at another time than they begin.',
    path: ['quietTo'],
  });

/** Letters that can be switched off. */
export const SWITCHED_LETTERS = {
  started: 'Welcome, when a subscription starts',
  'trial ending': 'Before a trial ends',
  'renewal coming': 'Before a renewal, where the rate says so',
  'part due': 'Before a later part of an invoice is due',
  'invoice reminder': 'Before an invoice that is paid by hand is due',
  'credit note': 'A credit note',
  refund: 'Money was paid back',
  receipt: 'Receipt of every payment',
  'card expiring': 'A card expires at the end of the month',
  'payment declined': 'A payment was declined',
  'payment still declined': 'A payment is still unpaid',
  'last reminder': 'Last reminder before the final action',
  lapsed: 'The subscription has stopped',
  'card replaced': 'Another card was given',
  ended: 'The subscription is complete',
} as const;
export type SwitchedLetter = keyof typeof SWITCHED_LETTERS;

export const recoverySection = z.strictObject({
  letters: z.record(
    z.enum(Object.keys(SWITCHED_LETTERS) as [SwitchedLetter, ...SwitchedLetter[]]),
    z.boolean(),
  ),
});

const shift = z.enum(['none', 'next', 'previous'], 'Choose where such a day moves.');
export const PAYMENT_KINDS = {
  card: 'Card',
  'bank debit': 'Bank debit',
  'by invoice': 'By invoice',
} as const;
/** How something is paid, as far as working days go. */
export type PaymentKind = keyof typeof PAYMENT_KINDS;

export const calendarSection = z.strictObject({
  weekends: z
    .array(
      z.strictObject({
        country: z.string().refine((code) => code === '' || isCountry(code), 'Choose a country.'),
        days: z.array(z.enum(WEEKDAYS)).max(6, 'A weekend has at most six days, so that some day is worked.'),
      }),
    )
    .max(250)
    .refine(
      (weekends) => new Set(weekends.map(({ country }) => country)).size === weekends.length,
      'A country stands here twice.',
    ),
  shifts: z.strictObject({ card: shift, 'bank debit': shift, 'by invoice': shift }),
});

export const taxingSection = z.strictObject({
  defaultTax: z
    .string()
    .regex(/^\d{1,18}$/)
    .nullable(),
  /** The business has said that it charges no tax: then none being set is no gap. */
  noTax: z.boolean(),
  /** Whether prices are thought of, and said first, without tax or with it. It changes no charge. */
  said: z.enum(['net', 'gross'], 'Choose how prices are said.').default('net'),
});

/** How staff are kept safe. */
export const securitySection = z.strictObject({
  /** Who must have a second factor; nobody else can do anything until they have one. */
  demandFactor: z.enum(['nobody', 'owners', 'everybody'], 'Choose who needs a second factor.'),
  /** A session that nobody uses for so long ends. */
  idleMinutes: z
    .int('Give whole minutes.')
    .min(5, 'At least 5 minutes.')
    .max(720, 'At most 720 minutes: every session ends after twelve hours.'),
});

/** The origin of an address: 'https://www.fenmarsh.example' of any page there; null where it is none. */
export function originOf(address: string): string | null {
  if (!URL.canParse(address)) return null;
  const { protocol, origin } = new URL(address);
  return protocol === 'https:' || protocol === 'http:' ? origin : null;
}

/** The business's own sites: sign-up pages may stand in frames of these and of no others. */
export const sitesSection = z.strictObject({
  origins: z
    .array(
      z
        .string()
        .trim()
        .max(300, 'At most 300 characters.')
        .transform((text, context) => {
          const origin = originOf(text);
          if (origin !== null) return origin;
          context.addIssue({
            code: 'custom',
            message: 'Give the address of the site, such as https://www.fenmarsh.example.',
          });
          return z.NEVER;
        })
        .pipe(z.string()),
    )
    .max(20, 'At most 20 sites.')
    .refine((origins) => new Set(origins).size === origins.length, 'A site stands here twice.'),
});

export const SECTIONS = {
  business: businessSection,
  branding: brandingSection,
  invoicing: invoicingSection,
  customers: customersSection,
  mail: mailSection,
  recovery: recoverySection,
  calendar: calendarSection,
  taxing: taxingSection,
  security: securitySection,
  sites: sitesSection,
} as const;
export type SectionName = keyof typeof SECTIONS;
export type SectionValue<Name extends SectionName> = z.output<(typeof SECTIONS)[Name]>;

/** A section as it is stored, with who changed it last. */
export interface SectionView<Name extends SectionName = SectionName> {
  readonly value: SectionValue<Name>;
  readonly version: number;
  readonly changedBy: string;
  readonly changedAt: string;
}

export const versioned = <Value extends z.ZodType>(value: Value) =>
  z.strictObject({ version: z.int().min(0), value });
