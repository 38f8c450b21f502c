import { z } from 'zod';
import { checkLadder } from '../../core/recovery/checkLadder.ts';
import { DECLINE_CLASSES, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { MOST_DAYS, MOST_RUNGS, type LadderPolicy } from '../../core/recovery/ladder.ts';
import { exponentOf } from '../../core/money/currency.ts';

const CLASSES = DECLINE_CLASSES as [DeclineClass, ...DeclineClass[]];
const days = (most: number) =>
  z
    .number(`Write a whole number of days, 0 to ${most}.`)
    .int(`Write a whole number of days, 0 to ${most}.`)
    .min(0, `Write a whole number of days, 0 to ${most}.`)
    .max(most, `Write a whole number of days, 0 to ${most}.`);

export const rungSchema = z.strictObject({
  afterDays: days(MOST_DAYS),
  retry: z.boolean(),
  letter: z.boolean(),
  classes: z.array(z.enum(CLASSES)).max(4).optional(),
  tellsStaff: z.boolean().optional(),
  acts: z
    .discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('pause') }),
      z.strictObject({ kind: z.literal('task'), says: z.string().max(200, 'At most 200 characters.') }),
    ])
    .optional(),
});

export const mannerSchema = z.strictObject({
  soonHours: z
    .array(
      z.number().int('Write whole hours.').min(1, 'After one hour at least.').max(48, 'Within 48 hours.'),
    )
    .max(6, 'At most six times.'),
  fromHour: z.number().int().min(0, 'An hour from 0 to 23.').max(23, 'An hour from 0 to 23.'),
  payDays: z
    .array(z.number().int().min(1, 'A day from 1 to 31.').max(31, 'A day from 1 to 31.'))
    .max(6, 'At most six pay-days.'),
  payDayWithin: z.number().int().min(1, 'Write 1 to 15 days.').max(15, 'Write 1 to 15 days.'),
  workingDays: z.boolean(),
});

/** How a payment is made, as far as ladders go: a ladder may be for some ways alone. */
export const LADDER_METHODS = ['card', 'bank account', 'by hand'] as const;
export type LadderMethod = (typeof LADDER_METHODS)[number];

const id = z.string().regex(/^\d{1,18}$/);
const minor = z.string().regex(/^\d{1,15}$/, 'Write an amount.');

/** Whose cases climb a ladder: all that it names must hold; what it does not name holds for all. */
export const servesSchema = z.strictObject({
  plans: z.array(id).max(200).optional(),
  methods: z.array(z.enum(LADDER_METHODS)).min(1, 'Choose a way to pay, or do not ask.').optional(),
  classes: z.array(z.enum(CLASSES)).min(1, 'Choose a decline, or do not ask.').optional(),
  /** What is owed when the case opens, in minor units of this currency, both inclusive; null: open. */
  amount: z
    .strictObject({
      currency: z.string().refine((code) => exponentOf(code) !== null, 'Choose a currency.'),
      from: minor.nullable(),
      to: minor.nullable(),
    })
    .refine(({ from, to }) => from === null || to === null || BigInt(from) <= BigInt(to), {
      message: 'The second amount is not below the first.',
      path: ['to'],
    })
    .optional(),
});
export type Serves = z.output<typeof servesSchema>;

export const policySchema = z.strictObject({
  rungs: z.array(rungSchema).min(1, 'Add a rung.').max(MOST_RUNGS, `At most ${MOST_RUNGS} rungs.`),
  finalAction: z.enum(['lapse', 'end', 'lapse and write off', 'leave'], 'Choose what happens at the end.'),
  finalAfterDays: days(MOST_DAYS + 30).min(1, 'The end comes after a day at least.'),
  manner: mannerSchema,
});

/** A ladder as it is saved. */
export const ladderSchema = z
  .strictObject({
    name: z.string().trim().min(1, 'Give it a name.').max(60, 'At most 60 characters.'),
    policy: policySchema,
    serves: servesSchema,
    /** Whether it is for everybody whom no other ladder is for. */
    isDefault: z.boolean(),
  })
  .superRefine(({ policy }, context) => {
    for (const { pointer, says } of checkLadder(policy as LadderPolicy))
      context.addIssue({
        ...{ code: 'custom', message: says },
        path: ['policy', ...pointer.slice(1).split('/')].map((part) =>
          /^\d+$/.test(part) ? Number(part) : part,
        ),
      });
  });
export type LadderDraft = z.output<typeof ladderSchema>;

export interface LadderRow {
  /** That of its first version: it stays whatever is changed. */
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly isDefault: boolean;
  /** False: it is out of use. */
  readonly isCurrent: boolean;
  readonly place: number;
  readonly policy: LadderPolicy;
  readonly serves: Serves;
  readonly madeOn: string | null;
  readonly madeBy: string;
  /** Cases that climb it now, whatever their version. */
  readonly open: number;
  /** Those of them that follow an older version. */
  readonly older: number;
  readonly recovered: number;
  readonly givenUp: number;
}

/** A version of a ladder. */
export interface LadderVersion {
  readonly id: string;
  readonly version: number;
  readonly madeOn: string | null;
  readonly madeBy: string;
  /** Open cases that climb this version. */
  readonly open: number;
}

export const ladderEditSchema = z.strictObject({ version: z.int().min(0), value: ladderSchema });
export const newLadderSchema = z.strictObject({ value: ladderSchema });
export const ladderOrderSchema = z.strictObject({ ids: z.array(id).max(200) });
