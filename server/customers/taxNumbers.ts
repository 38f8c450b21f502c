import { stdnum } from 'stdnum';
import { sayCountry } from '../../core/words/countries.ts';
import { RefusedCommand } from '../http/problem.ts';

/**
 * Refuses a tax number that is none of those that its country knows, of firms or of people: by its length, its letters and its
 * check digits, as published by each country. One that is empty, or of a country whose numbers are not known, is taken.
 * @param pointer where it stands in what was asked for
 */
export function requireTaxNumber(taxNumber: string, country: string, pointer: string): void {
  if (taxNumber === '' || country === '') return;
  const known = Object.values(stdnum[country] ?? {});
  if (known.length === 0 || known.some((kind) => kind.validate(taxNumber).isValid)) return;
  const names = [...new Set(known.map(({ abbreviation }) => abbreviation?.trim()).filter(Boolean))];
  throw new RefusedCommand(
    422,
    `${taxNumber} is no tax number of ${sayCountry(country)}${names.length > 0 ? ` (${names.join(', ')})` : ''}: a digit may be wrong.`,
    pointer,
  );
}
