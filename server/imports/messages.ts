import { z } from 'zod';

/** The most bytes of a file of what is offered, pictures and documents in it included. */
export const MOST_OFFER_BYTES = 40_000_000;

/** A file of what is offered comes as plain text. */
export const offerImportSchema = z.string('Choose a file.').min(1, 'Choose a file.');

export const offerImportQuery = z.object({
  /** Makes what differs what the file says, rates as new versions; otherwise it is left as it is. */
  update: z.enum(['yes', 'no']).default('no'),
});

/** One thing of a file held against what is stored. */
export interface OfferDifference {
  readonly what: string;
  readonly how:
    'new plan' | 'new rate' | 'new discount' | 'new variant' | 'new rate card' | 'same' | 'differs';
  readonly members: readonly { readonly member: string; readonly stored: string; readonly file: string }[];
}

export interface OfferImport {
  readonly problems: readonly { readonly line: number; readonly says: string }[];
  readonly differences: readonly OfferDifference[];
  readonly added: Readonly<Record<'plans' | 'rates' | 'discounts' | 'variants' | 'rateCards', number>>;
  readonly changed: Readonly<Record<'plans' | 'rates' | 'variants' | 'rateCards' | 'discounts', number>>;
}
