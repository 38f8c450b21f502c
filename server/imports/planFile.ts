import { z } from 'zod';
import { codeText, discountSchema } from '../discounts/messages.ts';
import {
  asksSchema,
  extrasSchema,
  linePricesSchema,
  mayDoSchema,
  rateOptionsSchema,
} from '../plans/choiceMessages.ts';
import { PLAN_KINDS, type PlanKind } from '../plans/messages.ts';
import { statementText } from '../settings/messages.ts';

/** A key by which files name plans and rates: it stays the same wherever the file goes. */
const key = z
  .string()
  .regex(
    /^[a-z0-9][a-z0-9-]{0,59}$/,
    'A key has small letters, digits and hyphens, at most 60, such as "hive-watch".',
  );

/** The open file format of plans: rates hold the terms of a subscription without `starts`. */
export const planFileSchema = z.strictObject({
  plans: z
    .array(
      z.strictObject({
        key,
        name: z.string().trim().min(1, 'A plan has a name.').max(120),
        description: z.string().max(5000).default(''),
        outerName: z.string().trim().max(120).optional(),
        kind: z.enum(Object.keys(PLAN_KINDS) as [PlanKind, ...PlanKind[]]).optional(),
        statementText: statementText.optional(),
        asks: asksSchema.optional(),
        extras: extrasSchema.optional(),
        mayDo: mayDoSchema.optional(),
        variants: z
          .array(
            z.strictObject({
              key,
              name: z.string().trim().min(1, 'A variant has a name.').max(80),
              says: z.string().trim().max(500).default(''),
              /** Other prices by the key of a rate: for each line a price, or null for the rate's own. */
              prices: z.record(key, linePricesSchema).default({}),
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
              /** How it is sold and collected. Gateway accounts are each business's own, and stand in no file. */
              options: rateOptionsSchema.omit({ gateways: true }).optional(),
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
});

export type PlanFile = z.infer<typeof planFileSchema>;
