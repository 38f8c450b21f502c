import { Flex } from '@chakra-ui/react';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { languages } from '../../../core/words/languages.ts';
import { CONTACT_FIELDS, type ContactField } from '../../../server/settings/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import type { GroupView } from '../../../server/rateCards/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Fold } from '../../parts/Fold.tsx';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';

export type Contact = Partial<
  Record<ContactField | 'postcode' | 'region' | 'tax_exempt' | 'group', string>
> & {
  /** The business's own fields, by their labels. */
  readonly fields?: Readonly<Record<string, string>>;
};

/** What the law needs to know of a customer. */
export function lawOf(contact: Contact | { country?: string | null; region?: string; taxExempt?: string }) {
  const exempt = 'taxExempt' in contact ? contact.taxExempt : (contact as Contact).tax_exempt;
  return { country: contact.country || null, region: contact.region ?? '', tax_exempt: exempt?.trim() ?? '' };
}

interface Props {
  readonly form: EnrolmentForm;
  readonly contact: Contact;
  /** What is wrong with a field, such as `customer/phone`. */
  readonly faultAt: (field: string) => string | undefined;
  /** Those that are demanded; the others are folded. */
  readonly required: readonly ContactField[];
  readonly onChange: (contact: Contact) => void;
}

/** What Setup asks of a new customer beside name and e-mail, and where taxes are charged, why they pay none. */
export function ContactFields(props: Props) {
  const { form, contact, faultAt, required, onChange } = props;
  const { ask, serves, law } = form;
  const asked = (Object.keys(CONTACT_FIELDS) as ContactField[]).filter((name) => ask[name] !== 'no');
  const bind = (name: Exclude<keyof Contact, 'fields'>) => ({
    value: contact[name] ?? '',
    field: `customer/${name}`,
    error: faultAt(`customer/${name}`),
    onChange: (event: { target: { value: string } }) => onChange({ ...contact, [name]: event.target.value }),
  });
  const offered =
    serves.length === 0 ? countries() : serves.map((code) => ({ code, name: sayCountry(code) }));
  const regions = law.rates.some(({ country, region }) => country === contact.country && region !== '');
  const { data: groups = [] } = useAnswer<GroupView[]>('/api/customer-groups');
  const own = (required: boolean) =>
    form.ownFields
      .filter((one) => one.required === required)
      .map(({ label }) => (
        <TextField
          key={label}
          w="220px"
          label={label}
          field={`customer/fields/${label}`}
          required={required}
          maxLength={500}
          value={contact.fields?.[label] ?? ''}
          error={faultAt(`customer/fields/${label}`)}
          onChange={(event) =>
            onChange({ ...contact, fields: { ...contact.fields, [label]: event.target.value } })
          }
        />
      ));
  if (asked.length === 0 && form.ownFields.length === 0 && law.rates.length === 0 && groups.length === 0)
    return null;
  const shown = (name: ContactField) => {
    switch (name) {
      case 'address':
        return (
          <Flex key={name} gap="3" w="full" align="flex-start">
            <AreaField label={CONTACT_FIELDS.address} rows={2} maxLength={500} {...bind(name)} />
            <TextField label="Postcode" w="140px" maxLength={20} {...bind('postcode')} />
          </Flex>
        );
      case 'country':
        return (
          <SelectField key={name} w="200px" label={CONTACT_FIELDS.country} {...bind(name)}>
            <option value="">{ask.country === 'required' ? 'Choose …' : 'Not known'}</option>
            {offered.map(({ code, name: called }) => (
              <option key={code} value={code}>
                {called}
              </option>
            ))}
          </SelectField>
        );
      case 'language':
        return (
          <SelectField key={name} w="200px" label={CONTACT_FIELDS.language} {...bind(name)}>
            <option value="">{ask.language === 'required' ? 'Choose …' : 'Not known'}</option>
            {languages().map(({ code, name: called }) => (
              <option key={code} value={code}>
                {called}
              </option>
            ))}
          </SelectField>
        );
      case 'phone':
      case 'organisation':
      case 'tax_number':
        return (
          <TextField
            key={name}
            w="200px"
            label={CONTACT_FIELDS[name]}
            required={required.includes(name)}
            maxLength={name === 'organisation' ? 200 : 40}
            {...bind(name)}
          />
        );
    }
  };
  const demanded = asked.filter((name) => required.includes(name));
  const optional = asked.filter((name) => !required.includes(name));
  const named = [
    ...optional.map((name) => CONTACT_FIELDS[name]),
    ...form.ownFields.filter(({ required: must }) => !must).map(({ label }) => label),
    ...(regions ? ['region'] : []),
    ...(groups.length > 0 ? ['group'] : []),
    ...(law.rates.length > 0 ? ['why no tax is paid'] : []),
  ];
  return (
    <>
      {(demanded.length > 0 || form.ownFields.some(({ required: must }) => must)) && (
        <Flex gap="3" wrap="wrap" align="flex-start">
          {demanded.map(shown)}
          {own(true)}
        </Flex>
      )}
      {named.length > 0 && (
        <Fold
          title="More of them"
          holds={named.join(', ').toLowerCase()}
          open={Object.entries(contact).some(
            ([name, value]) => value && !required.includes(name as ContactField),
          )}
        >
          <Flex gap="3" wrap="wrap" align="flex-start">
            {optional.map(shown)}
            {own(false)}
            {regions && (
              <TextField
                w="200px"
                label="Region"
                maxLength={60}
                hint="Taxes differ by region there."
                {...bind('region')}
              />
            )}
            {groups.length > 0 && (
              <SelectField w="200px" label="Group" {...bind('group')}>
                <option value="">none</option>
                {groups.map(({ name }) => (
                  <option key={name}>{name}</option>
                ))}
              </SelectField>
            )}
            {law.rates.length > 0 && (
              <TextField
                w="260px"
                label="Pays no tax because"
                maxLength={200}
                hint="Empty for everybody who pays it."
                {...bind('tax_exempt')}
              />
            )}
          </Flex>
        </Fold>
      )}
    </>
  );
}
