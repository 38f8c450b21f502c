import { z } from 'zod';

export const offerImportSchema = z.strictObject({
  text: z
    .string()
    .min(1, 'Choose a file.')
    .max(900_000, 'A file has at most 900 kB here; larger ones by ./almanac import.'),
  dryRun: z.boolean(),
  /** Saves rates that differ as new versions; otherwise they are left as they are. */
  update: z.boolean(),
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
  readonly changed: Readonly<Record<'plans' | 'rates' | 'variants' | 'rateCards', number>>;
}
