import { z } from 'zod';

/** How the stand-in is told to misbehave. */
export const faultsSchema = z.strictObject({
  down: z.boolean().optional(),
  slowMs: z.int().min(0).max(60_000).optional(),
  /** So many coming charges are made and not answered. */
  dropAnswers: z.int().min(0).optional(),
  repeatWebhooks: z.boolean().optional(),
  /** So many coming refunds are made and not answered. */
  dropRefunds: z.int().min(0).optional(),
  /** Coming charges are answered with this status; `charged` makes them all the same. */
  chargesAnswer: z
    .strictObject({
      status: z.int().min(400).max(599),
      times: z.int().min(1).default(1_000_000),
      charged: z.boolean().default(false),
      /** Answers as a proxy between would: with a page of its own. */
      page: z.boolean().default(false),
    })
    .optional(),
});
export type Faults = z.infer<typeof faultsSchema>;

export const cardSchema = z.strictObject({
  number: z.string().transform((text) => text.replace(/[ -]/g, '')),
  expiresYear: z.int().min(2000).max(2200),
  expiresMonth: z.int().min(1).max(12),
  /** The name on it. */
  holder: z.string().trim().max(200).optional(),
  /** The day of whoever practises, as this gateway has no clock of its own. */
  on: z.iso.date().optional(),
});
export const behaviourSchema = z.strictObject({
  code: z.string().length(2).optional(),
  from: z.iso.date().optional(),
  until: z.iso.date().optional(),
  firstTries: z.int().optional(),
  firstDay: z.boolean().optional(),
  silent: z.boolean().optional(),
  moneyFrom: z.int().min(1).max(31).optional(),
  moneyUntil: z.int().min(1).max(31).optional(),
  renews: z.boolean().optional(),
  onlyCharges: z.boolean().optional(),
  confirms: z.boolean().optional(),
  refunds: z.enum(['take days', 'come back']).optional(),
});
export const movedCardsSchema = z.array(
  z.strictObject({
    token: z.string().min(8).max(80),
    network: z.string().max(40),
    lastFour: z.string().regex(/^\d{4}$/),
    expiresYear: z.int(),
    expiresMonth: z.int().min(1).max(12),
    behaviour: behaviourSchema,
  }),
);
export const chargeSchema = z.strictObject({
  token: z.string(),
  amount: z.string().regex(/^[1-9]\d{0,17}$/),
  currency: z.string().length(3),
  statementText: z.string().min(1).max(22),
  reference: z.string().max(100),
  channel: z.enum(['customer', 'staff', 'reader', 'import']),
  date: z.iso.date(),
  /** Answers as a charge would and keeps nothing of it. */
  rehearsal: z.boolean().optional(),
});
export const cardListSchema = z.strictObject({ tokens: z.array(z.string().max(200)).min(1).max(500) });
/** Authorises an amount, or zero where none is named. */
export const checkSchema = z.strictObject({
  date: z.iso.date(),
  amount: z
    .string()
    .regex(/^[1-9]\d{0,17}$/)
    .optional(),
  currency: z.string().length(3).optional(),
});
export const expirySchema = z.strictObject({
  expiresYear: z.int().min(2000).max(2200),
  expiresMonth: z.int().min(1).max(12),
});
export const webhookSchema = z.strictObject({ url: z.url({ protocol: /^https?$/ }) });
/** What happens at a gateway by itself, told by hand to practise it. */
export const happeningSchema = z.strictObject({
  type: z.enum(['money.disputed', 'payout.sent']),
  data: z.record(z.string(), z.unknown()),
});
