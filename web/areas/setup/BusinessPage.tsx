import { Box, Flex, Text } from '@chakra-ui/react';
import { countries } from '../../../core/words/countries.ts';
import { CURRENCIES } from '../../../core/money/currency.ts';
import type { GatewayAccountView } from '../../../server/gateways/messages.ts';
import { LANGUAGES, type SectionValue } from '../../../server/settings/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';
import { field, SectionForm } from './SectionForm.tsx';

const ZONES = Intl.supportedValuesOf('timeZone');

/** Who the business is, where it is, and what banks print of it. */
export function BusinessPage() {
  return (
    <SectionForm name="business" title="Business" margin={(value) => <Meaning value={value} />}>
      {(form) => (
        <>
          <TextField
            label="Name"
            required
            maxLength={120}
            hint="What customers know you by."
            {...field(form, 'name')}
          />
          <TextField label="Legal name" maxLength={200} {...field(form, 'legalName')} />
          <AreaField label="Address" rows={3} maxLength={500} {...field(form, 'address')} />
          <Flex gap="4">
            <SelectField label="Country" {...field(form, 'country')}>
              <option value="">Choose …</option>
              {countries().map(({ code, name }) => (
                <option key={code} value={code}>
                  {name}
                </option>
              ))}
            </SelectField>
            <TextField label="Tax number" maxLength={40} {...field(form, 'taxNumber')} />
          </Flex>
          <Flex gap="4">
            <SelectField label="Time zone" {...field(form, 'timeZone')}>
              {ZONES.map((zone) => (
                <option key={zone}>{zone}</option>
              ))}
            </SelectField>
            <SelectField label="Home currency" {...field(form, 'homeCurrency')}>
              {CURRENCIES.map((code) => (
                <option key={code}>{code}</option>
              ))}
            </SelectField>
            <SelectField label="Language" {...field(form, 'language')}>
              {Object.entries(LANGUAGES).map(([code, name]) => (
                <option key={code} value={code}>
                  {name}
                </option>
              ))}
            </SelectField>
          </Flex>
          <Flex gap="4">
            <TextField
              label="Contact address"
              type="email"
              hint="Where customers write to; it stands on their pages."
              {...field(form, 'contactAddress')}
            />
            <TextField
              label="Reply address"
              type="email"
              hint="Where answers to letters go, if elsewhere."
              {...field(form, 'replyAddress')}
            />
          </Flex>
          <TextField
            label="Bank-statement text"
            required
            maxLength={40}
            hint="Capitals, digits, spaces and . * - : what the payer’s bank prints."
            {...field(form, 'statementText')}
          />
        </>
      )}
    </SectionForm>
  );
}

function Meaning({ value }: { readonly value: SectionValue<'business'> }) {
  const { data: accounts } = useAnswer<GatewayAccountView[]>('/api/gateways');
  const connected = accounts?.filter(({ disconnectedOn }) => disconnectedOn === null) ?? [];
  const most = Math.min(22, ...connected.map(({ facts }) => facts.abilities.statementText.most));
  const text = value.statementText ?? '';
  return (
    <>
      <MarginHeading>On a bank statement</MarginHeading>
      <Box bg="page" borderWidth="1px" borderColor="lines" px="3" py="2" fontFamily="mono" fontSize="13px">
        <Flex color="muted">
          <Box flex="1">04 JAN</Box>
          <Box>OUT</Box>
        </Flex>
        <Flex gap="2">
          <Box flex="1" overflowWrap="anywhere">
            {text.slice(0, most) || '(nothing)'}
            {text.length > most && (
              <Box as="span" color="declined" textDecoration="line-through">
                {text.slice(most)}
              </Box>
            )}
          </Box>
          <Box>12.00</Box>
        </Flex>
      </Box>
      <Text color={text.length > most ? 'declined' : 'muted'} fontSize="13px" mt="1">
        {text.length} of {most} characters
        {connected.length > 0 ? `, as ${connected.map(({ name }) => name).join(' and ')} print` : ''}.
      </Text>
      <MarginHeading>What this changes</MarginHeading>
      <Text>
        Letters, pages and invoices written from now on. Invoices that are issued keep the name and address
        they were issued with.
      </Text>
    </>
  );
}
