import { z } from 'zod';

/** An account at a gateway as the gateway tells of it: its state, what it can do, where it pays out. */
export const accountFacts = z.object({
  account: z.string().min(1).max(80),
  name: z.string().min(1).max(120),
  kind: z.enum(['card gateway', 'bank debit gateway']),
  publicKey: z.string().min(8).max(200),
  mayCharge: z.boolean(),
  mayPayOut: z.boolean(),
  says: z.string().max(500),
  asks: z.array(z.string().max(300)).max(20),
  abilities: z.object({
    methods: z.array(z.string().max(40)).max(20),
    currencies: z.array(z.string().length(3)).max(300),
    repeat: z.boolean(),
    phone: z.boolean(),
    reader: z.boolean(),
    fees: z
      .array(z.object({ method: z.string(), percent: z.string(), fixed: z.string(), currency: z.string() }))
      .max(100),
    statementText: z.object({
      most: z.int().min(1).max(100),
      pattern: z.string().max(200),
      says: z.string().max(200),
    }),
  }),
  payouts: z
    .object({
      bank: z.string().max(120),
      ending: z.string().max(10),
      firstAfterDays: z.int(),
      rhythm: z.string().max(60),
    })
    .nullable(),
});
export type AccountFacts = z.output<typeof accountFacts>;
