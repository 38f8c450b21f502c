import { z } from 'zod';
import { isCountry } from '../../core/words/countries.ts';

/** A country, or the empty text for everywhere. */
export const calendarCountry = z
  .string()
  .refine((code) => code === '' || isCountry(code), 'Choose a country.');
const name = z
  .string()
  .trim()
  .min(1, 'Give the holiday a name.')
  .max(120, 'A name has at most 120 characters.');

export const holidaySchema = z.strictObject({
  country: calendarCountry,
  date: z.iso
    .date('Give a day.')
    .refine((date) => date > '1999-12-31' && date < '2200', 'Give a day of the years 2000 to 2199.'),
  name,
});
export const holidayFileSchema = z.strictObject({
  country: calendarCountry,
  text: z.string().max(2_000_000, 'A file has at most 2 MB.'),
  dryRun: z.boolean(),
});

export interface Holiday {
  readonly country: string;
  readonly date: string;
  readonly name: string;
}

export interface HolidayImport {
  /** Days that the file adds; those already there are left out. */
  readonly added: readonly Holiday[];
  readonly known: number;
  readonly passedOver: readonly string[];
}
