import { z } from 'zod';
import { codeText, discountSchema } from '../discounts/messages.ts';
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
        rates: z
          .array(
            z.strictObject({
              key,
              name: z.string().trim().min(1, 'A rate has a name.').max(120),
              terms: z.record(z.string(), z.unknown()),
            }),
          )
          .min(1, 'A plan has at least one rate.'),
      }),
    )
    .max(1000),
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
