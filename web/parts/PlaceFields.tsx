import { Flex, Grid } from '@chakra-ui/react';
import { countries, sayCountry } from '../../core/words/countries.ts';
import type { Place } from '../../server/customers/placeMessages.ts';
import { AreaField, SelectField, TextField } from './TextField.tsx';

export const NO_PLACE: Place = { name: '', address: '', postcode: '', region: '', country: '' };

interface Props {
  readonly place: Place;
  /** The countries that may be chosen; none named: all. */
  readonly offered: readonly string[];
  /** What is wrong with a member, such as `postcode`. */
  readonly faultAt: (member: keyof Place) => string | undefined;
  /** What its fields are called in the form, such as `place`. */
  readonly field: string;
  readonly onChange: (place: Place) => void;
}

/** The fields of an address that something is served at or shipped to. */
export function PlaceFields({ place, offered, faultAt, field, onChange }: Props) {
  const bind = (member: keyof Place) => ({
    value: place[member],
    field: `${field}/${member}`,
    error: faultAt(member),
    onChange: (event: { target: { value: string } }) => onChange({ ...place, [member]: event.target.value }),
  });
  const chosen =
    offered.length === 0 ? countries() : offered.map((code) => ({ code, name: sayCountry(code) }));
  return (
    <Grid gap="3">
      <TextField label="Who is there" maxLength={200} hint="Empty: the customer." {...bind('name')} />
      <AreaField label="Address there" rows={2} required maxLength={500} {...bind('address')} />
      <Flex gap="3" wrap="wrap" align="flex-start">
        <TextField label="Postcode there" w="140px" maxLength={20} {...bind('postcode')} />
        <TextField label="Region there" w="160px" maxLength={60} {...bind('region')} />
        <SelectField label="Country there" w="200px" required {...bind('country')}>
          <option value="">Choose …</option>
          {chosen.map(({ code, name }) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </SelectField>
      </Flex>
    </Grid>
  );
}
