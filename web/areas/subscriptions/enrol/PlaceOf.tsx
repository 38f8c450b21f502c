import { Box, Text } from '@chakra-ui/react';
import { sayCountry } from '../../../../core/words/countries.ts';
import type { CustomerView } from '../../../../server/customers/messages.ts';
import { sayPlace, type Place } from '../../../../server/customers/placeMessages.ts';
import { NO_PLACE, PlaceFields } from '../../../parts/PlaceFields.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import type { Contact } from '../ContactFields.tsx';

interface Props {
  readonly isGoods: boolean;
  readonly place: Place | null;
  /** Where goods go to where nothing else is said; null: no address is known. */
  readonly usual: Place | null;
  /** The countries that may be chosen; none named: all. */
  readonly offered: readonly string[];
  readonly country: string;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (place: Place | null) => void;
}

/** Where a subscription is served, or goods are shipped to: the customer's own address, or another. */
export function PlaceOf({ isGoods, place, usual, offered, country, faultAt, onChange }: Props) {
  const demanded = isGoods && usual === null && place === null;
  return (
    <Box data-field={demanded ? 'place/address' : undefined} tabIndex={demanded ? -1 : undefined}>
      {isGoods && <Text fontWeight="500">Where it is shipped to</Text>}
      {isGoods && place === null && (
        <Text color={faultAt('place/address') === undefined ? 'muted' : 'declined'}>
          {usual ? sayPlace(usual, sayCountry) : (faultAt('place/address') ?? 'No address is known yet.')}
        </Text>
      )}
      <TickField
        label={isGoods ? 'It goes to another address' : 'It is served at another address'}
        checked={place !== null}
        onChange={(on) => onChange(on ? { ...NO_PLACE, country } : null)}
      />
      {place && (
        <PlaceFields
          field="place"
          place={place}
          offered={offered}
          faultAt={(member) => faultAt(`place/${member}`)}
          onChange={onChange}
        />
      )}
    </Box>
  );
}

/** The address that goods go to where nothing else is said, of a customer there is or of somebody new; null: none is known. */
export function usualPlace(of: CustomerView | Contact | undefined): Place | null {
  if (!of) return null;
  if ('shipping' in of && of.shipping) return of.shipping;
  const { address = '', postcode = '', region = '', country = '' } = of;
  return address.trim() === '' || country === '' ? null : { name: '', address, postcode, region, country };
}
