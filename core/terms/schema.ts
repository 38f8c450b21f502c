import { z } from 'zod';
import { parseDay } from '../dates/day.ts';
import { parseDuration } from '../dates/duration.ts';
import { WEEKDAYS } from '../dates/weekday.ts';
import { exponentOf } from '../money/currency.ts';
import { decimalsOf, parseDecimal } from '../money/decimal.ts';

/**
 * The terms document of rules 1 as Zod schemas: what each member may hold by itself. What members must be
 * to one another is in `acrossMembers.ts`. The JSON Schema in docs/ is generated from here.
 */

/** The largest count of things in any list of the terms; far above use, so that no input can exhaust us. */
const LIST_LIMIT = 20_000;

const date = z
  .string('Give a date as YYYY-MM-DD.')
  .refine(
    (text) => parseDay(text) !== null,
    'Give a date that exists, as YYYY-MM-DD, of the years 1 to 9999.',
  )
  .meta({ format: 'date' });

const durationIn = (least: number, most: number, units: string, sentence: string) =>
  z
    .string(sentence)
    .refine((text) => {
      const duration = parseDuration(text);
      return (
        duration !== null &&
        units.includes(duration.unit) &&
        duration.count >= least &&
        duration.count <= most
      );
    }, sentence)
    .meta({ pattern: `^P\\d+[${units}]$` });

const length = durationIn(
  1,
  999,
  'DWMY',
  'Give a length such as P14D, P2W, P1M or P1Y: one of days, weeks, months or years, 1 to 999 of them.',
);

const decimal = (places: number, sentence: string) =>
  z
    .string(sentence)
    .refine((text) => (decimalsOf(text) ?? Infinity) <= places, sentence)
    .meta({ pattern: `^\\d{1,18}(\\.\\d{1,${places}})?$` });

/** A money amount: its number of decimals is held against the currency in `acrossMembers.ts`. */
const money = decimal(
  4,
  'Give an amount such as "4.50": digits with at most one point, at most as many decimals as the currency has, no sign.',
);
const unitAmount = decimal(
  12,
  'Give an amount a unit such as "0.0125": digits with at most one point and at most 12 decimals, no sign.',
);

const percentage = (places: number, sentence: string) =>
  decimal(places, sentence).refine(
    (text) =>
      (decimalsOf(text) ?? Infinity) > places || parseDecimal(text, places) <= 100n * 10n ** BigInt(places),
    sentence,
  );

const count = (sentence: string) => z.int(sentence).min(1, sentence);
const name = z.string('A name is a text.').max(500, 'A name has at most 500 characters.').optional();

const tax = z.strictObject({
  rate: percentage(4, 'Give a tax rate in percent, from 0 to 100, with at most 4 decimals.'),
  mode: z.enum(
    ['exclusive', 'inclusive'],
    'A tax is "exclusive" (on top of the price) or "inclusive" (inside it).',
  ),
});

const tierLimit = z
  .union(
    [z.int().min(1), z.null()],
    'Give the last quantity of this tier, a whole number from 1, or null for the last tier.',
  )
  .meta({ description: 'the last quantity this tier holds; null on the last tier alone' });

const tiers = z
  .array(z.strictObject({ to: tierLimit, each: unitAmount, amount: money.optional() }))
  .min(1, 'Give at least one tier.')
  .max(LIST_LIMIT, 'At most 20,000 tiers.');
const steps = z
  .array(z.strictObject({ to: tierLimit, amount: money }))
  .min(1, 'Give at least one step.')
  .max(LIST_LIMIT, 'At most 20,000 steps.');

/** A price of a line, by its scheme. */
export const priceSchema = z.discriminatedUnion(
  'scheme',
  [
    z.strictObject({ scheme: z.literal('flat'), amount: money }),
    z.strictObject({ scheme: z.literal('each'), amount: unitAmount }),
    z.strictObject({ scheme: z.literal('each-tier'), tiers }),
    z.strictObject({ scheme: z.literal('reached-tier'), tiers }),
    z.strictObject({ scheme: z.literal('step'), tiers: steps }),
    z.strictObject({
      scheme: z.literal('pack'),
      amount: money,
      size: count('Give the size of a pack, a whole number from 1.'),
    }),
    z.strictObject({
      scheme: z.literal('chosen'),
      amount: money,
      min: money.optional(),
      max: money.optional(),
    }),
    z.strictObject({ scheme: z.literal('instalments'), total: money }),
  ],
  'A price scheme is one of flat, each, each-tier, reached-tier, step, pack, chosen and instalments.',
);

const discountMembers = {
  percent: percentage(12, 'Give a percentage from 0 to 100 with at most 12 decimals.').optional(),
  amount: money.optional(),
  payments: count('Give the number of payments the discount lasts, a whole number from 1.').optional(),
};
const eitherOr = (value: { percent?: string; amount?: string }) =>
  (value.percent === undefined) !== (value.amount === undefined);
const EITHER_DISCOUNT = 'A discount has either a percent or an amount, one of the two.';
const exactlyOne = (...members: string[]) => ({ oneOf: members.map((member) => ({ required: [member] })) });

const lineDiscount = z
  .strictObject(discountMembers)
  .refine(eitherOr, EITHER_DISCOUNT)
  .meta(exactlyOne('percent', 'amount'));
const discount = z
  .strictObject({
    ...discountMembers,
    to: z
      .enum(['recurring', 'once', 'all'], 'A discount goes to "recurring" lines, "once" amounts or "all".')
      .optional(),
  })
  .refine(eitherOr, EITHER_DISCOUNT)
  .meta(exactlyOne('percent', 'amount'));

const line = z.strictObject({
  name,
  quantity: count('Give a quantity, a whole number from 1.').optional(),
  price: priceSchema,
  intro: z
    .strictObject({
      payments: count('Give the number of payments at the first price, a whole number from 1.'),
      amount: money,
    })
    .optional(),
  discounts: z.array(lineDiscount).max(100, 'At most 100 discounts on a line.').optional(),
  tax: tax.optional(),
});
const lines = z
  .array(line, 'Give at least one line of what recurs.')
  .min(1, 'Give at least one line of what recurs.')
  .max(1000, 'At most 1,000 lines.');

const weekday = z.enum(WEEKDAYS, 'Give a weekday: mon, tue, wed, thu, fri, sat or sun.');
const dayOfMonth = z.int().min(1).max(31);
const anchor = z.union([
  z.strictObject({ month: z.int().min(1).max(12), day: dayOfMonth }),
  z.strictObject({ nth: z.union([z.int().min(1).max(4), z.literal('last')]), weekday }),
  z.strictObject({ day: z.union([dayOfMonth, z.literal('last')]) }),
  z.strictObject({ days: z.tuple([dayOfMonth, dayOfMonth]) }),
  z.strictObject({ weekday }),
]);

const stub = z.enum(['prorate', 'full', 'free'], 'A part period is "prorate", "full" or "free".');

const ends = z
  .strictObject({
    after: count('Give the number of full prices to charge, a whole number from 1.').optional(),
    until: date.optional(),
  })
  .refine(
    (value) => (value.after === undefined) !== (value.until === undefined),
    'An ending is either { "after": number of payments } or { "until": date }.',
  )
  .meta(exactlyOne('after', 'until'));

const workingDays = z.strictObject({
  shift: z.enum(['next', 'previous'], 'A due date moves to the "next" or the "previous" working day.'),
  weekend: z
    .array(weekday)
    .refine((days) => new Set(days).size < 7, 'A weekend has at most six days, so that some day is worked.')
    .optional(),
  holidays: z.array(date).max(LIST_LIMIT, 'At most 20,000 holidays.').optional(),
});

const interval = length;

const change = z.strictObject({
  date,
  lines: lines.optional(),
  schedule: z.strictObject({ interval, on: anchor.optional(), stub: stub.optional() }).optional(),
  next: date.optional(),
  nextStub: z
    .enum(['free', 'prorate'], 'The days that a moved date gives or takes are "free" or "prorate".')
    .optional(),
  ends: ends.nullable().optional(),
  settle: z.enum(['now', 'next', 'none'], 'A change settles "now", "next" or "none".').optional(),
});

const common = {
  currency: z
    .string('Give the currency as three letters of ISO 4217, such as GBP.')
    .refine(
      (code) => exponentOf(code) !== null,
      'Give the currency as three letters of ISO 4217, such as GBP.',
    ),
  starts: date,
  discounts: z.array(discount).max(100, 'At most 100 discounts.').optional(),
  tax: tax.optional(),
  terms: durationIn(0, 4_000_000, 'D', 'Give the payment term in days, such as P0D or P30D.').optional(),
  workingDays: workingDays.optional(),
};
const onceAmount = z.strictObject({ name, amount: money, date, tax: tax.optional() });

/** Terms of what recurs. */
export const recurringTermsSchema = z.strictObject({
  ...common,
  lines,
  interval,
  on: anchor.optional(),
  trial: z.strictObject({ length, amount: money.optional() }).optional(),
  setup: z
    .strictObject({
      amount: money,
      when: z
        .enum(['start', 'after-trial'], 'A set-up amount is due at the "start" or "after-trial".')
        .optional(),
    })
    .optional(),
  once: z.array(onceAmount).max(LIST_LIMIT, 'At most 20,000 once amounts.').optional(),
  stub: stub.optional(),
  ends: ends.optional(),
  endStub: z.enum(['whole', 'prorate'], 'A last period is "whole" or "prorate".').optional(),
  pauses: z
    .array(
      z.strictObject({
        from: date,
        to: date,
        resume: z.enum(['keep', 'restart'], 'After a pause the boundaries "keep" or "restart".').optional(),
        rest: z
          .enum(
            ['free', 'prorate'],
            'What is left of the period that a pause ends in is "free" or "prorate".',
          )
          .optional(),
      }),
    )
    .max(LIST_LIMIT, 'At most 20,000 pauses.')
    .optional(),
  changes: z.array(change).max(LIST_LIMIT, 'At most 20,000 changes.').optional(),
});

/** Terms of a one-off sale: no `lines`, and little else than what is sold. */
export const oneOffTermsSchema = z.strictObject({
  ...common,
  once: z
    .array(onceAmount)
    .min(1, 'A one-off sale has at least one once amount.')
    .max(LIST_LIMIT, 'At most 20,000 once amounts.'),
});

export const termsSchema = z.union([recurringTermsSchema, oneOffTermsSchema]);

export type RecurringTerms = z.infer<typeof recurringTermsSchema>;
export type OneOffTerms = z.infer<typeof oneOffTermsSchema>;
/** A document that has been found good by `checkTerms`. */
export type Terms = RecurringTerms | OneOffTerms;
export type TermsLine = z.infer<typeof line>;
export type TermsPrice = z.infer<typeof priceSchema>;
export type TermsDiscount = z.infer<typeof discount>;
export type TermsAnchor = z.infer<typeof anchor>;
export type TermsTax = z.infer<typeof tax>;
export type TermsEnds = z.infer<typeof ends>;
export type TermsChange = z.infer<typeof change>;
