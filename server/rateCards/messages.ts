import { z } from 'zod';
import type { LinePrices } from '../../core/offer/prices.ts';
import { codeText } from '../codes/codeMessages.ts';
import { linePricesSchema } from '../plans/choiceMessages.ts';

const id = z.string().regex(/^\d{1,18}$/);
const day = z.iso.date('Give a day.').nullable();

/** Who may have a rate card, in the words of the form. */
export const GIVEN_BY = {
  group: 'a group of customers',
  code: 'whoever has a code',
  hand: 'those it is given to by hand',
} as const;
export type GivenBy = keyof typeof GIVEN_BY;

export const rateCardSchema = z
  .strictObject({
    name: z.string().trim().min(1, 'Give the rate card a name.').max(80, 'At most 80 characters.'),
    givenBy: z.enum(['group', 'code', 'hand'], 'Choose who may have it.'),
    /** The group's name; of another kind: empty. */
    group: z.string().trim().max(80, 'At most 80 characters.').default(''),
    code: codeText.nullable().default(null),
    /** Days on which it can be taken: from, and the first on which it cannot any more. Those who have it keep it. */
    validFrom: day,
    validTo: day,
    prices: z
      .array(
        z.strictObject({
          rateId: id,
          /** Null: for every variant that has no price of its own here. */
          variantId: id.nullable(),
          prices: linePricesSchema,
        }),
      )
      .max(2000)
      .refine((prices) => prices.some((one) => one.prices.some((price) => price !== null)), {
        message: 'Give at least one rate another price.',
      }),
  })
  .superRefine(({ givenBy, group, code, validFrom, validTo }, context) => {
    if (givenBy === 'group' && group === '')
      context.addIssue({ code: 'custom', path: ['group'], message: 'Name the group of customers.' });
    if (givenBy === 'code' && code === null)
      context.addIssue({ code: 'custom', path: ['code'], message: 'Give the code.' });
    if (validFrom !== null && validTo !== null && validTo <= validFrom)
      context.addIssue({ code: 'custom', path: ['validTo'], message: 'It ends after it begins.' });
  });
export type RateCardValue = z.output<typeof rateCardSchema>;

export interface RateCardView extends RateCardValue {
  readonly id: string;
  readonly key: string;
  readonly version: number;
  readonly archivedOn: string | null;
  /** How many subscriptions have it. */
  readonly taken: number;
  readonly says: string;
}

/** A rate card that can be taken with a rate. */
export interface TakeableCard {
  readonly id: string;
  readonly name: string;
  readonly givenBy: GivenBy;
  readonly prices: LinePrices;
}

export interface GroupView {
  readonly name: string;
  readonly customers: number;
}

export const applySchema = z.strictObject({
  subscriptions: z.array(id).min(1, 'Choose at least one subscription.').max(5000),
  from: z.enum(['now', 'renewal']),
});

/** What applying a card would do, or has done, to one subscription. */
export interface CardEffect {
  readonly subscriptionId: string;
  readonly customer: string;
  readonly plan: string;
  readonly currency: string;
  /** A full period by the present and the other prices, minor units before tax. */
  readonly before: string;
  readonly after: string;
  readonly effectiveOn: string | null;
  /** Why it cannot have the card, or null. */
  readonly refused: string | null;
}
