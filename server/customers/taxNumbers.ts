import { stdnum } from 'stdnum';
import { sayCountry } from '../../core/words/countries.ts';
import { RefusedCommand } from '../http/problem.ts';

/** What is no number at all makes some of them stumble: it is none. */
function isValid(kind: { validate(text: string): { readonly isValid: boolean } }, text: string): boolean {
  try {
    return kind.validate(text).isValid;
  } catch {
    return false;
  }
}

/** The numbers that a country gives to firms and people, with how each is told. */
const kindsOf = (country: string) => Object.values(stdnum[country] ?? {});

/**
 * Whether a tax number is one of those that its country knows, of firms or of people: by its length, its letters and its check
 * digits, as published by each country. One that is empty, or of a country whose numbers are not known, is taken.
 */
export function isTaxNumberOf(taxNumber: string, country: string): boolean {
  const kinds = taxNumber === '' || country === '' ? [] : kindsOf(country);
  return kinds.length === 0 || kinds.some((kind) => isValid(kind, taxNumber));
}

/**
 * Refuses a tax number that is none of its country ({@link isTaxNumberOf}).
 * @param pointer where it stands in what was asked for
 */
export function requireTaxNumber(taxNumber: string, country: string, pointer: string): void {
  if (isTaxNumberOf(taxNumber, country)) return;
  const names = [
    ...new Set(
      kindsOf(country)
        .map(({ abbreviation }) => abbreviation?.trim())
        .filter(Boolean),
    ),
  ];
  throw new RefusedCommand(
    422,
    `${taxNumber} is no tax number of ${sayCountry(country)}${names.length > 0 ? ` (${names.join(', ')})` : ''}: a digit may be wrong.`,
    pointer,
  );
}
