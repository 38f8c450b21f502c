import { Flex, Grid } from '@chakra-ui/react';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { CONTACT_FIELDS, type ContactField } from '../../../server/settings/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import type { GroupView } from '../../../server/rateCards/messages.ts';
import type { Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';

export type Contact = Partial<Record<ContactField | 'region' | 'tax_exempt' | 'group', string>>;

/** What the law needs to know of a customer. */
export function lawOf(contact: Contact | { country?: string | null; region?: string; taxExempt?: string }) {
  const exempt = 'taxExempt' in contact ? contact.taxExempt : (contact as Contact).tax_exempt;
  return { country: contact.country || null, region: contact.region ?? '', tax_exempt: exempt?.trim() ?? '' };
}

interface Props {
  readonly form: EnrolmentForm;
  readonly contact: Contact;
  readonly problem: Problem | null;
  readonly onChange: (contact: Contact) => void;
}

/** What Setup asks of a new customer beside name and e-mail, and where taxes are charged, why they pay none. */
export function ContactFields({ form, contact, problem, onChange }: Props) {
  const { ask, serves, law } = form;
  const asked = (Object.keys(CONTACT_FIELDS) as ContactField[]).filter((name) => ask[name] !== 'no');
  const bind = (name: keyof Contact) => ({
    value: contact[name] ?? '',
    error: problem?.at(`/customer/${name}`),
    onChange: (event: { target: { value: string } }) => onChange({ ...contact, [name]: event.target.value }),
  });
  const offered =
    serves.length === 0 ? countries() : serves.map((code) => ({ code, name: sayCountry(code) }));
  const regions = law.rates.some(({ country, region }) => country === contact.country && region !== '');
  const { data: groups = [] } = useAnswer<GroupView[]>('/api/customer-groups');
  if (asked.length === 0 && law.rates.length === 0 && groups.length === 0) return null;
  return (
    <Grid gap="4">
      <Flex gap="3" wrap="wrap">
        {asked
          .filter((name) => name !== 'address' && name !== 'country')
          .map((name) => (
            <TextField
              key={name}
              w="190px"
              label={CONTACT_FIELDS[name]}
              required={ask[name] === 'required'}
              maxLength={name === 'organisation' ? 200 : 40}
              {...bind(name)}
            />
          ))}
      </Flex>
      {asked.includes('address') && (
        <AreaField label={CONTACT_FIELDS.address} rows={2} maxLength={500} {...bind('address')} />
      )}
      <Flex gap="3">
        {asked.includes('country') && (
          <SelectField label={CONTACT_FIELDS.country} {...bind('country')}>
            <option value="">{ask.country === 'required' ? 'Choose …' : 'Not known'}</option>
            {offered.map(({ code, name }) => (
              <option key={code} value={code}>
                {name}
              </option>
            ))}
          </SelectField>
        )}
        {regions && (
          <TextField label="Region" maxLength={60} hint="Taxes differ by region there." {...bind('region')} />
        )}
        {groups.length > 0 && (
          <SelectField label="Group" {...bind('group')}>
            <option value="">none</option>
            {groups.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </SelectField>
        )}
        {law.rates.length > 0 && (
          <TextField
            label="Pays no tax because"
            maxLength={200}
            hint="Empty for everybody who pays it."
            {...bind('tax_exempt')}
          />
        )}
      </Flex>
    </Grid>
  );
}
