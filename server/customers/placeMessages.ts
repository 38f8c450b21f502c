import { z } from 'zod';
import { isCountry } from '../../core/words/countries.ts';

const most = (length: number) => z.string().trim().max(length, `At most ${length} characters.`);

/** Where something is served or shipped to. */
export const placeSchema = z.strictObject({
  /** Who is there; empty: the customer. */
  name: most(200).default(''),
  address: most(500).min(1, 'Give the address.'),
  postcode: most(20).default(''),
  region: most(60).default(''),
  country: z.string().refine(isCountry, 'Choose a country.'),
});
export type Place = z.output<typeof placeSchema>;

/** A field of the business's own, with what a customer gave for it. */
export interface OwnField {
  readonly label: string;
  readonly value: string;
}

/** A place in one line: 'Bram Sedge, 4 Sluice Lane, PE11 2AB, United Kingdom'. */
export function sayPlace(
  { name, address, postcode, region, country }: Place,
  sayCountry: (code: string) => string,
): string {
  const lines = address.split('\n').map((line) => line.trim());
  return [name, ...lines, postcode, region, sayCountry(country)].filter((part) => part !== '').join(', ');
}
