import { z } from 'zod';
import { exponentOf } from '../../core/money/currency.ts';
import type { TermsDiscount } from '../../core/terms/schema.ts';
import { codeText } from '../codes/codeMessages.ts';
import type { TakeableCard } from '../rateCards/messages.ts';
import { decimalsOf, parseDecimal } from '../../core/money/decimal.ts';

const id = z.string().regex(/^\d{1,18}$/);
const day = z.iso.date('Give a day.').nullable();
const limit = z
  .int('Give a whole number.')
  .min(1, 'At least 1, or leave it empty.')
  .max(10_000_000)
  .nullable();

export const discountSchema = z
  .strictObject({
    name: z.string().trim().min(1, 'Give the discount a name.').max(80, 'A name has at most 80 characters.'),
    as: z.enum(['percent', 'amount'], 'Choose percent or an amount.'),
    off: z.string().trim(),
    /** Of an amount: the only currency it can be taken off in. */
    currency: z.string().nullable(),
    /** Off so many payments; null: off all. */
    payments: z.int('Give a whole number.').min(1, 'At least 1, or leave it empty.').max(100_000).nullable(),
    appliesTo: z.enum(['recurring', 'once', 'all'], 'Choose off what.'),
    /** Plans it can be used for; none named: all. */
    plans: z.array(id).max(500),
    validFrom: day,
    /** The first day on which it cannot be used any more. */
    validTo: day,
    mostUses: limit,
    mostPerCustomer: limit,
    /** Whether it can be used beside other codes on one subscription. */
    stacks: z.boolean(),
  })
  .superRefine(({ as, off, currency, validFrom, validTo }, context) => {
    const decimals = decimalsOf(off);
    const digits = as === 'percent' ? 12 : exponentOf(currency ?? '');
    const tooMuch =
      as === 'percent' && decimals !== null && decimals <= 12 && parseDecimal(off, 12) > 100n * 10n ** 12n;
    if (digits === null)
      context.addIssue({ code: 'custom', path: ['currency'], message: 'Choose the currency of the amount.' });
    else if (decimals === null || decimals > digits || tooMuch) {
      const message = as === 'percent' ? 'Give a percentage from 0 to 100.' : 'Give an amount such as 5.00.';
      context.addIssue({ code: 'custom', path: ['off'], message });
    }
    if (validFrom !== null && validTo !== null && validTo <= validFrom)
      context.addIssue({ code: 'custom', path: ['validTo'], message: 'It ends after it begins.' });
  });
export type DiscountValue = z.output<typeof discountSchema>;

export const codesSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('one'), code: codeText, mostUses: limit }),
  z.strictObject({
    kind: z.literal('many'),
    count: z.int('Give a whole number.').min(1, 'At least 1.').max(10_000, 'At most 10,000 at a time.'),
    prefix: z
      .string()
      .trim()
      .transform((text) => text.toUpperCase())
      .pipe(z.string().regex(/^[A-Z0-9-]{0,12}$/, 'A beginning has at most 12 letters, digits and hyphens.')),
  }),
]);

export interface DiscountView extends DiscountValue {
  readonly id: string;
  readonly version: number;
  readonly used: number;
  readonly archivedOn: string | null;
  /** What it does, in plain words. */
  readonly says: string;
  readonly codes: number;
  /** The first few codes. */
  readonly someCodes: readonly {
    readonly code: string;
    readonly used: number;
    readonly mostUses: number | null;
  }[];
}

/** What a code stands for: a discount, or a rate card. */
export interface CodeAnswer {
  readonly discount?: TermsDiscount;
  readonly card?: TakeableCard;
}
