import { z } from 'zod';

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
});

export type PlanFile = z.infer<typeof planFileSchema>;
