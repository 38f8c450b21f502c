import { postcodeValidator, postcodeValidatorExistsForCountry } from 'postcode-validator';
import { sayCountry } from '../../core/words/countries.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { SectionValue } from '../settings/messages.ts';
import type { OwnField, Place } from './placeMessages.ts';

/** Whether a postcode is written as those of its country are; one that is empty, or of a country unknown, is. */
export function isPostcodeOf(postcode: string, country: string): boolean {
  if (postcode === '' || country === '' || !postcodeValidatorExistsForCountry(country)) return true;
  return postcodeValidator(postcode, country);
}

/** Refuses a postcode that is not written as those of its country are; one that is empty, or of a country unknown, is taken. */
export function requirePostcode(postcode: string, country: string, pointer: string): void {
  if (isPostcodeOf(postcode, country)) return;
  throw new RefusedCommand(422, `${postcode} is no postcode of ${sayCountry(country)}.`, pointer);
}

/** What of a customer, or of somebody new, a place can be made of. */
interface Lives {
  readonly name: string;
  readonly address: string;
  readonly postcode: string;
  readonly region: string;
  readonly country: string | null;
  readonly shipping?: Place | null;
}

/** Where goods go to where nothing else is said: the customer's shipping address, or the one that they are billed at. */
export function shipsTo({ address, postcode, region, country, shipping }: Lives): Place | null {
  if (shipping) return shipping;
  return address === '' || !country ? null : { name: '', address, postcode, region, country };
}

/**
 * Where what is enrolled for is served or shipped to; null where that is where the customer is billed. Refused where goods go to
 * no address, or to a country that is not shipped to or served.
 */
export function requirePlace(
  isGoods: boolean,
  { given, usual }: { readonly given: Place | undefined; readonly usual: Place | null },
  { serves, shipsTo: shipped }: Pick<SectionValue<'customers'>, 'serves' | 'shipsTo'>,
): Place | null {
  const place = given ?? (isGoods ? usual : null);
  if (place === null) {
    if (isGoods) throw new RefusedCommand(422, 'Goods go to an address: give one.', '/place/address');
    return null;
  }
  requirePostcode(place.postcode, place.country, '/place/postcode');
  const taken = isGoods && shipped.length > 0 ? shipped : serves;
  if (taken.length > 0 && !taken.includes(place.country))
    throw new RefusedCommand(
      422,
      isGoods
        ? `Goods are not shipped to ${sayCountry(place.country)}; see Setup, Customers.`
        : `Nothing is served in ${sayCountry(place.country)}; see Setup, Customers.`,
      '/place/country',
    );
  return place;
}

/** What was given for the business's own fields; one that is required and missing, or that there is none of, is refused. */
export function ownFieldsOf(
  given: Readonly<Record<string, string>>,
  { fields }: { readonly fields: readonly { readonly label: string; readonly required: boolean }[] },
  pointer: string,
): OwnField[] {
  const unknown = Object.keys(given).find((label) => !fields.some((field) => field.label === label));
  if (unknown !== undefined)
    throw new RefusedCommand(422, `Customers have no field "${unknown}" any more.`, pointer);
  return fields.flatMap(({ label, required }) => {
    const value = given[label]?.trim() ?? '';
    if (required && value === '')
      throw new RefusedCommand(422, `${label}: this is asked of every customer.`, `${pointer}/${label}`);
    return value === '' ? [] : [{ label, value }];
  });
}
