import { z } from 'zod';
import { codeText } from '../codes/codeMessages.ts';
import { discountSchema } from '../discounts/messages.ts';
import {
  asksSchema,
  extrasSchema,
  linePricesSchema,
  mayDoSchema,
  rateOptionsSchema,
} from '../plans/choiceMessages.ts';
import { PLAN_KINDS, type PlanKind } from '../../core/offer/kinds.ts';
import { onInvoicesSchema, statementText } from '../settings/messages.ts';

/** A key by which files name plans and rates: it stays the same wherever the file goes. */
const key = z
  .string()
  .regex(
    /^[a-z0-9][a-z0-9-]{0,59}$/,
    'A key has small letters, digits and hyphens, at most 60, such as "hive-watch".',
  );

/** What names a picture or a document in a file, and is its address here: unguessable, so the same in both. */
const address = z.string().regex(/^[0-9a-f]{32}$/, 'A file is named by 32 digits and letters from a to f.');

/** The open file format of plans: rates hold the terms of a subscription without `starts`. */
export const planFileSchema = z.strictObject({
  plans: z
    .array(
      z.strictObject({
        key,
        name: z.string().trim().min(1, 'A plan has a name.').max(120),
        description: z.string().max(20_000).default(''),
        outerName: z.string().trim().max(120).optional(),
        kind: z.enum(Object.keys(PLAN_KINDS) as [PlanKind, ...PlanKind[]]).optional(),
        statementText: statementText.nullable().optional(),
        /** The key of the rate that is offered first. */
        firstRate: key.nullable().optional(),
        /** A picture and documents, which `files` holds. */
        picture: address.nullable().optional(),
        documents: z
          .array(z.strictObject({ name: z.string().trim().min(1).max(120), file: address }))
          .max(20, 'At most 20 documents.')
          .optional(),
        asks: asksSchema.optional(),
        extras: extrasSchema.optional(),
        mayDo: mayDoSchema.optional(),
        onInvoices: onInvoicesSchema.optional(),
        variants: z
          .array(
            z.strictObject({
              key,
              name: z.string().trim().min(1, 'A variant has a name.').max(80),
              says: z.string().trim().max(500).default(''),
              /** Other prices by the key of a rate: for each line a price, or null for the rate's own. */
              prices: z.record(key, linePricesSchema).default({}),
              /** The keys of the rates that it can be had at; none named: all. */
              rates: z.array(key).max(1000).default([]),
            }),
          )
          .max(200)
          .optional(),
        rates: z
          .array(
            z.strictObject({
              key,
              name: z.string().trim().min(1, 'A rate has a name.').max(120),
              terms: z.record(z.string(), z.unknown()),
              /** What new subscriptions pay, where the terms name none of their own. */
              tax: z
                .union([z.enum(['default', 'none']), z.strictObject({ named: z.string().min(1).max(80) })])
                .optional(),
              /** How it is sold and collected. Gateway accounts are named by what they are called in Setup. */
              options: rateOptionsSchema
                .omit({ gateways: true })
                .extend({ gateways: z.array(z.string().min(1).max(200)).max(50).optional() })
                .optional(),
            }),
          )
          .min(1, 'A plan has at least one rate.'),
      }),
    )
    .max(1000),
  rateCards: z
    .array(
      z.strictObject({
        key,
        name: z.string().trim().min(1, 'A rate card has a name.').max(80),
        givenBy: z.enum(['group', 'code', 'hand']),
        group: z.string().trim().max(80).default(''),
        code: codeText.nullable().default(null),
        validFrom: z.iso.date().nullable().default(null),
        validTo: z.iso.date().nullable().default(null),
        prices: z
          .array(z.strictObject({ plan: key, rate: key, variant: key.optional(), prices: linePricesSchema }))
          .min(1, 'A rate card has at least one price.'),
      }),
    )
    .max(500)
    .optional(),
  discounts: z
    .array(
      z.strictObject({
        /** The plans it can be used for, by their keys; none named: all. */
        for: z.array(key).default([]),
        value: discountSchema,
        codes: z.array(codeText).max(10_000).default([]),
      }),
    )
    .max(1000)
    .optional(),
  /** The pictures (PNG, JPEG, WebP or SVG) and documents (PDF) that plans show, in Base64. */
  files: z
    .record(
      address,
      z.strictObject({
        name: z.string().max(200),
        data: z.base64('This is no Base64.').min(4).max(7_000_000, 'At most 5 MB.'),
      }),
    )
    .optional(),
});

export type PlanFile = z.infer<typeof planFileSchema>;
export type FilePlan = PlanFile['plans'][number];
export type FileRate = FilePlan['rates'][number];
export type FileVariant = NonNullable<FilePlan['variants']>[number];
export type FileCard = NonNullable<PlanFile['rateCards']>[number];
export type FileDiscount = NonNullable<PlanFile['discounts']>[number];
