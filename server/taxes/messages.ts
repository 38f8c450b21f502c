import { z } from 'zod';
import { decimalsOf, parseDecimal } from '../../core/money/decimal.ts';
import { isCountry } from '../../core/words/countries.ts';

const percent = z
  .string()
  .trim()
  .refine((text) => {
    const decimals = decimalsOf(text);
    return decimals !== null && decimals <= 4 && parseDecimal(text, 4) <= 1_000_000n;
  }, 'Give a rate in percent, from 0 to 100, with at most 4 decimals.');
const day = z.iso
  .date('Give a day.')
  .refine((date) => date > '1900' && date < '2200', 'Give a day of the years 1900 to 2199.');

export const taxRateSchema = z
  .strictObject({
    percent,
    mode: z.enum(['exclusive', 'inclusive'], 'On top of the price, or inside it.'),
    country: z.string().refine(isCountry, 'Choose a country.').nullable(),
    region: z.string().trim().max(60, 'A region has at most 60 characters.'),
    validFrom: day,
    /** First day on which it is not in force any more; null goes on. */
    validTo: day.nullable(),
  })
  .refine(({ validFrom, validTo }) => validTo === null || validTo > validFrom, {
    message: 'It ends after it begins.',
    path: ['validTo'],
  })
  .refine(({ country, region }) => region === '' || country !== null, {
    message: 'A region belongs to a country: choose it.',
    path: ['country'],
  });
export type TaxRate = z.output<typeof taxRateSchema>;

export const taxSchema = z
  .strictObject({
    name: z
      .string()
      .trim()
      .min(1, 'Give the tax a name, such as VAT.')
      .max(80, 'A name has at most 80 characters.'),
    rates: z.array(taxRateSchema).min(1, 'A tax has at least one rate.').max(500, 'At most 500 rates.'),
  })
  .superRefine(({ rates }, context) => {
    rates.forEach((rate, i) => {
      const other = rates.findIndex(
        (earlier, j) =>
          j < i &&
          earlier.country === rate.country &&
          earlier.region.toLowerCase() === rate.region.toLowerCase() &&
          (earlier.validTo === null || earlier.validTo > rate.validFrom) &&
          (rate.validTo === null || rate.validTo > earlier.validFrom),
      );
      if (other >= 0) {
        context.addIssue({
          code: 'custom',
          path: ['rates', i, 'validFrom'],
          message: `This overlaps with rate ${other + 1} for the same place. End that one first.`,
        });
      }
    });
  });
export type TaxValue = z.output<typeof taxSchema>;

export interface TaxView extends TaxValue {
  readonly id: string;
  readonly version: number;
  readonly retiredOn: string | null;
  readonly isDefault: boolean;
  /** Running subscriptions that pay it. */
  readonly subscriptions: number;
}
