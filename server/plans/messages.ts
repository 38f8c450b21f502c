import { PLAN_KINDS, type PlanKind } from '../../core/offer/kinds.ts';
import { z } from 'zod';
import { onInvoicesSchema, statementText } from '../settings/messages.ts';
import {
  asksSchema,
  documentsSchema,
  extrasSchema,
  mayDoSchema,
  rateOptionsSchema,
  type RateOptions,
  type VariantView,
} from './choiceMessages.ts';

/** What of the offer can be archived, by the word for it. */
export type Archivable = 'plan' | 'rate' | 'variant' | 'rate card' | 'discount';

const kinds = Object.keys(PLAN_KINDS) as [PlanKind, ...PlanKind[]];

const id = z.string().regex(/^\d{1,18}$/);
const rateName = z
  .string()
  .trim()
  .min(1, 'Give the rate a name, such as Monthly.')
  .max(120, 'A name has at most 120 characters.');
const taxChoice = z.union([
  z.strictObject({ kind: z.enum(['default', 'none']) }),
  z.strictObject({ kind: z.literal('tax'), id }),
]);

/** A rate: its terms are checked by the calculation itself. */
export const rateSchema = z.strictObject({
  name: rateName,
  terms: z.record(z.string(), z.unknown()),
  taxChoice: taxChoice.default({ kind: 'default' }),
  options: rateOptionsSchema.prefault({}),
});

/** What a plan says of itself, apart from its rates. */
export const planSchema = z.strictObject({
  name: z.string().trim().min(1, 'Give the plan a name.').max(120, 'A name has at most 120 characters.'),
  outerName: z.string().trim().max(120, 'A name has at most 120 characters.').default(''),
  kind: z.enum(kinds, 'Choose what kind of thing this is.').default('service'),
  /** Formatted text: a few elements of HTML, made safe before it is stored. */
  description: z.string().trim().max(20_000, 'A description has at most 20,000 characters.').default(''),
  statementText: statementText.nullable().default(null),
  firstRate: id.nullable().default(null),
  /** An upload of kind picture. */
  picture: id.nullable().default(null),
  documents: documentsSchema.default([]),
  asks: asksSchema.default([]),
  extras: extrasSchema.default([]),
  mayDo: mayDoSchema.prefault({}),
  onInvoices: onInvoicesSchema.prefault({}),
});

/** The form of a new plan with its first rate. */
export const newPlanSchema = planSchema.omit({ firstRate: true }).extend({ rate: rateSchema });
export type NewPlan = z.input<typeof newPlanSchema>;
export type PlanValue = z.output<typeof planSchema>;

/** What becomes of those who subscribe to a rate when it gets a new version. */
export const subscribersSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('stay') }),
  z.strictObject({
    kind: z.literal('renewal'),
    letterDays: z.int('Give whole days.').min(0, 'Give 0 days or more.').max(365, 'At most 365 days.'),
  }),
  z.strictObject({
    kind: z.literal('date'),
    date: z.iso.date('Give the day.'),
    /** What the part period costs where the rate's rhythm is another one. */
    stub: z.enum(['prorate', 'full', 'free'], 'Choose what the part period costs.').default('prorate'),
    letterDays: z.int('Give whole days.').min(0, 'Give 0 days or more.').max(365, 'At most 365 days.'),
  }),
]);
export type SubscribersMove = z.output<typeof subscribersSchema>;

export const rateEditSchema = z.strictObject({
  version: z.int().min(1),
  value: rateSchema,
  subscribers: subscribersSchema,
});

/** Those on earlier versions of a rate are moved to its newest. */
export const laterMoveSchema = z.strictObject({
  version: z.int().min(1),
  subscribers: z.discriminatedUnion('kind', [subscribersSchema.options[1], subscribersSchema.options[2]]),
});

/** Who subscribes to a rate, on which version, and where they are to move. */
export interface RateSubscriber {
  readonly id: string;
  readonly customer: string;
  readonly state: string;
  readonly version: number;
  readonly since: string;
  /** The version they are to move to and when; null: none. */
  readonly movesTo: number | null;
  readonly movesOn: string | null;
}

export interface RateView {
  readonly id: string;
  readonly name: string;
  readonly says: string;
  readonly terms: Record<string, unknown>;
  /** The tax that new subscriptions pay by law, or null: none, or the one that the terms name. */
  readonly taxId: string | null;
  readonly subscribers: number;
  readonly version: number;
  /** Of those who subscribe, how many are on an earlier version and not to move. */
  readonly behind: number;
  readonly archivedOn: string | null;
  readonly taxChoice: z.output<typeof taxChoice>;
  readonly options: RateOptions;
}

export interface PlanView extends PlanValue {
  readonly id: string;
  readonly version: number;
  readonly archivedOn: string | null;
  readonly rates: RateView[];
  readonly variants: readonly VariantView[];
  readonly subscribers: number;
  /** Why it cannot be sold now, or null where it can; known where one plan is read. */
  readonly notSold?: string | null;
  /** Pages on which customers join it by themselves; only where one plan is read. */
  readonly signUpPages?: readonly { readonly id: string; readonly title: string; readonly isOn: boolean }[];
  /** Where its picture is, and its documents in their order. */
  readonly pictureAt: string | null;
  readonly documentsAt: readonly (string | null)[];
}

/** A plan in the list. */
export interface PlanRow {
  readonly id: string;
  readonly name: string;
  readonly kind: PlanKind;
  /** The rate offered first, in words, and how many more there are. */
  readonly price: string;
  readonly states: Readonly<Record<string, number>>;
  readonly subscribers: number;
  /** What it brings a month, by currency, in minor units. */
  readonly monthly: readonly { readonly currency: string; readonly amount: string }[];
  /** Why it cannot be sold now, or null where it can. */
  readonly notSold: string | null;
  readonly archived: boolean;
}

/** One subscription and what a new version of its rate does to it. */
export interface MovedSubscription {
  readonly subscriptionId: string;
  readonly customer: string;
  readonly currency: string;
  /** Monthly value before and after, minor units. */
  readonly before: string;
  readonly after: string;
  readonly effectiveOn: string | null;
  /** Why it stays where it is, or null where it moves. */
  readonly stays: string | null;
}

export interface MoveEffect {
  /** How many move, and how many stay. */
  readonly moves: number;
  readonly stay: number;
  /** The first of both, by name. */
  readonly shown: readonly MovedSubscription[];
  readonly sums: readonly { readonly currency: string; readonly before: string; readonly after: string }[];
}

export interface RateVersionView {
  readonly version: number;
  readonly name: string;
  readonly says: string;
  readonly savedBy: string;
  readonly savedAt: string;
  readonly subscribers: number;
  /** How many are to move to it on a day to come. */
  readonly coming: number;
}
