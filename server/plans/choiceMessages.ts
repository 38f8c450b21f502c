import { z } from 'zod';
import { exponentOf } from '../../core/money/currency.ts';
import type { ExtraLine } from '../../core/offer/extras.ts';
import { faultsOfPrice } from '../../core/offer/prices.ts';
import { priceSchema } from '../../core/terms/schema.ts';

const id = z.string().regex(/^\d{1,18}$/);
const key = z.string().regex(/^[a-z0-9][a-z0-9-]{0,59}$/, 'A key has small letters, digits and hyphens.');
const count = (most: number) =>
  z
    .int('Give a whole number.')
    .min(1, 'At least 1.')
    .max(most, `At most ${most.toLocaleString('en')}.`);

/** A line that a plan offers beside its rates. */
export const extraSchema = z
  .strictObject({
    key,
    name: z.string().trim().min(1, 'Give the extra line a name.').max(120, 'At most 120 characters.'),
    currency: z.string().refine((code) => exponentOf(code) !== null, 'Choose a currency.'),
    price: priceSchema,
    when: z.enum(['recurring', 'once'], 'Choose whether it recurs.'),
    how: z.enum(['required', 'preselected', 'offered'], 'Choose how it is offered.'),
    min: count(1_000_000),
    max: count(1_000_000),
    byCustomer: z.boolean(),
  })
  .superRefine(({ price, currency, min, max }, context) => {
    if (exponentOf(currency) === null) return;
    if (price.scheme === 'instalments')
      context.addIssue({
        code: 'custom',
        path: ['price', 'scheme'],
        message: 'An extra line is not paid in instalments; add it to a rate.',
      });
    for (const { pointer, detail } of faultsOfPrice(price, currency))
      context.addIssue({ code: 'custom', path: ['price', ...pointer.split('/').slice(1)], message: detail });
    if (max < min) context.addIssue({ code: 'custom', path: ['max'], message: `Not below ${min}.` });
  })
  .transform((extra) => extra as ExtraLine);

export const extrasSchema = z
  .array(extraSchema)
  .max(50, 'At most 50 extra lines.')
  .superRefine((extras, context) => {
    extras.forEach((extra, i) => {
      if (extras.slice(0, i).some((one) => one.key === extra.key || one.name === extra.name))
        context.addIssue({
          code: 'custom',
          path: [i, 'name'],
          message: 'There is one of this name already.',
        });
    });
  });

export const ASK_KINDS = {
  text: 'a line of text',
  'long text': 'several lines',
  number: 'a number',
  date: 'a date',
  choice: 'one of a list',
  'yes or no': 'yes or no',
} as const;
export type AskKind = keyof typeof ASK_KINDS;

/** What a plan asks of everybody who takes it. */
export const askSchema = z
  .strictObject({
    label: z.string().trim().min(1, 'Say what is asked.').max(80, 'At most 80 characters.'),
    kind: z.enum(Object.keys(ASK_KINDS) as [AskKind, ...AskKind[]], 'Choose what is given.'),
    choices: z.array(z.string().trim().min(1).max(80)).max(100, 'At most 100 to choose from.').default([]),
    required: z.boolean().default(false),
    hint: z.string().trim().max(200, 'At most 200 characters.').default(''),
  })
  .refine(({ kind, choices }) => kind !== 'choice' || choices.length >= 2, {
    message: 'Give at least two to choose from, one a line.',
    path: ['choices'],
  });
export type Ask = z.output<typeof askSchema>;

export const asksSchema = z
  .array(askSchema)
  .max(30, 'At most 30 things are asked.')
  .superRefine((asks, context) => {
    asks.forEach(({ label }, i) => {
      if (asks.slice(0, i).some((one) => one.label === label))
        context.addIssue({ code: 'custom', path: [i, 'label'], message: 'This is asked already.' });
    });
  });

/** What is wrong with an answer to what a plan asks, or null. */
export function faultOfAnswer(ask: Ask, answer: string): string | null {
  if (answer === '') return ask.required ? `${ask.label}: this is asked of everybody.` : null;
  if (answer.length > 1000) return 'At most 1,000 characters.';
  if (ask.kind === 'number' && !/^-?\d{1,15}(\.\d{1,9})?$/.test(answer))
    return 'Give a number, such as 12.5.';
  if (ask.kind === 'date' && !z.iso.date().safeParse(answer).success) return 'Give a day.';
  if (ask.kind === 'choice' && !ask.choices.includes(answer)) return 'Choose one of the list.';
  if (ask.kind === 'yes or no' && answer !== 'yes' && answer !== 'no') return 'Say yes or no.';
  return null;
}

/** What customers may do alone, on their own page. What is absent they may not. */
export const mayDoSchema = z.strictObject({
  cancel: z
    .enum(['never', 'now', 'period end', 'after payments'], 'Choose when they may end it.')
    .default('period end'),
  /** Of `after payments`: it ends when so many full prices have been charged. */
  cancelAfter: count(1000).nullable().default(null),
  pause: z.boolean().default(false),
  /** Longest pause, in periods. */
  pauseMost: count(24).default(3),
  skip: z.boolean().default(false),
  quantity: z.boolean().default(false),
  quantityMost: count(1_000_000).default(100),
  variant: z.boolean().default(false),
  code: z.boolean().default(false),
  /** Instalments run to their end: nothing may be done to them alone unless this says so. */
  instalmentsToo: z.boolean().default(false),
});
export type MayDo = z.output<typeof mayDoSchema>;

export const documentsSchema = z
  .array(z.strictObject({ upload: id, name: z.string().trim().min(1, 'Give the document a name.').max(120) }))
  .max(20, 'At most 20 documents.');

/** Other prices for the lines of a rate; null leaves the rate's own. */
export const linePricesSchema = z.array(priceSchema.nullable()).max(1000);

/** One of several that a plan comes in: a size, a place, a level. */
export const variantSchema = z.strictObject({
  name: z.string().trim().min(1, 'Give the variant a name, such as Large.').max(80, 'At most 80 characters.'),
  says: z.string().trim().max(500, 'At most 500 characters.').default(''),
  /** By the id of a rate. */
  prices: z.record(id, linePricesSchema).default({}),
  /** The ids of the rates that it can be had at; none named: all. */
  rates: z.array(id).max(1000).default([]),
});
export type VariantValue = z.output<typeof variantSchema>;

export interface VariantView extends VariantValue {
  readonly id: string;
  readonly key: string;
  readonly version: number;
  readonly archivedOn: string | null;
  readonly subscribers: number;
}

/** So many days before a period begins its invoice is issued. */
export const issueDaysSchema = z.int('Give whole days.').min(0, 'At least 0.').max(90, 'At most 90 days.');

/** How a rate is sold and collected, beside its terms. */
export const rateOptionsSchema = z.strictObject({
  /** Account of the books that its invoices are kept on. */
  account: z.string().trim().max(40, 'An account has at most 40 characters.').default(''),
  /** How it is paid: with a card or a bank account that is charged by itself, or by hand: by online transfer, at the gateway's page, or by invoice. */
  methods: z
    .array(z.enum(['card', 'bank debit', 'online transfer', 'invoice']))
    .min(1, 'Accept at least one way of payment.')
    .default(['card']),
  /** Gateway accounts that may keep its cards, by id; none named: any. */
  gateways: z.array(id).max(50).default([]),
  /** Of a rate with a fixed number of payments: an invoice for each, or one for the whole with dated dues. */
  invoicing: z.enum(['each', 'whole']).default('each'),
  /** A letter so many days before each renewal; null: none. */
  noticeDays: z
    .int('Give whole days.')
    .min(1, 'At least 1.')
    .max(90, 'At most 90 days.')
    .nullable()
    .default(null),
  /** Each full period is invoiced so many days before it begins. */
  issueDaysBefore: issueDaysSchema.default(0),
  /** A letter so many days before a trial ends; null: as usual, and never later than the customer's country asks for. */
  trialNoticeDays: z
    .int('Give whole days.')
    .min(1, 'At least 1.')
    .max(90, 'At most 90 days.')
    .nullable()
    .default(null),
  /** Whether a method is needed when a trial starts, or else what happens at its end without one. */
  withoutMethod: z.enum(['needed', 'end', 'pause', 'invoice']).default('needed'),
  /** What recurs begins later than the day of enrolment; amounts once do not wait for it. */
  recurringStart: z
    .union([
      z.strictObject({
        after: z.string().regex(/^P\d{1,3}[DWMY]$/, 'Give a number of days, weeks, months or years.'),
      }),
      z.strictObject({ on: z.iso.date('Give the day.') }),
    ])
    .nullable()
    .default(null),
});
export type RateOptions = z.output<typeof rateOptionsSchema>;
export type RateOptionsInput = z.input<typeof rateOptionsSchema>;
