import { Box, Table, Text } from '@chakra-ui/react';
import type { UseFormRegisterReturn } from 'react-hook-form';
import { OwnFieldsEditor } from './OwnFieldsEditor.tsx';
import {
  CONTACT_FIELDS,
  MOST_CUSTOMER_FIELDS,
  type ContactField,
} from '../../../server/settings/messages.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { ChooseCountries } from './ChooseCountries.tsx';
import { TrialNotices } from './TrialNotices.tsx';
import { faultAt, SectionForm } from './SectionForm.tsx';

const CHOICES = ['no', 'optional', 'required'] as const;

/** Whom the business serves, and what it asks of a new customer. */
export function CustomersSetupPage() {
  return (
    <SectionForm
      name="customers"
      title="Customers"
      margin={(value) => {
        const asked = (Object.keys(CONTACT_FIELDS) as ContactField[]).filter(
          (name) => value.ask[name] !== 'no',
        );
        return (
          <>
            <MarginHeading>The form of a new customer</MarginHeading>
            <Box as="ul" pl="4" listStyleType="disc">
              <li>Name</li>
              <li>E-mail</li>
              {asked.map((name) => (
                <li key={name}>
                  {CONTACT_FIELDS[name]}
                  {value.ask[name] === 'optional' && (
                    <Box as="span" color="muted">
                      {' '}
                      may be left empty
                    </Box>
                  )}
                </li>
              ))}
              {value.cardholder !== 'no' && (
                <li>
                  {CARDHOLDER}
                  {value.cardholder === 'optional' && (
                    <Box as="span" color="muted">
                      {' '}
                      may be left empty
                    </Box>
                  )}
                </li>
              )}
            </Box>
            <MarginHeading>What this changes</MarginHeading>
            <Text>New customers alone. Those you have stay as they are, wherever they live.</Text>
          </>
        );
      }}
    >
      {(form, value) => (
        <>
          <ChooseCountries
            label="Countries served"
            chosen={value.serves}
            none="None named: customers everywhere are served."
            error={faultAt(form, 'serves')}
            onChange={(chosen) => form.setValue('serves', chosen, { shouldDirty: true })}
          />
          <ChooseCountries
            label="Countries shipped to"
            chosen={value.shipsTo}
            none="None named: goods go wherever customers are served."
            error={faultAt(form, 'shipsTo')}
            onChange={(chosen) => form.setValue('shipsTo', chosen, { shouldDirty: true })}
          />
          <TrialNotices
            notices={value.trialNotices ?? []}
            faultAt={(path) => faultAt(form, `trialNotices${path}`)}
            onChange={(notices) =>
              form.setValue('trialNotices', notices, { shouldDirty: true, shouldValidate: true })
            }
          />
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              Asked of a new customer
            </Text>
            <Table.Root size="sm" aria-label="Asked of a new customer">
              <Table.Body>
                {Object.entries(CONTACT_FIELDS).map(([name, label]) => (
                  <Asked key={name} label={label} register={form.register(`ask.${name}`)} />
                ))}
                <Asked label={CARDHOLDER} register={form.register('cardholder')} />
              </Table.Body>
            </Table.Root>
          </Box>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px">
              Fields of your own
            </Text>
            <Text color="muted" mb="3">
              Asked of a new customer, and kept on their page.
            </Text>
            <OwnFieldsEditor
              fields={value.fields ?? []}
              most={MOST_CUSTOMER_FIELDS}
              faultAt={(path) => faultAt(form, path === '' ? 'fields' : `fields.${path}`)}
              onChange={(fields) =>
                form.setValue('fields', fields, {
                  shouldDirty: true,
                  shouldValidate: form.formState.isSubmitted,
                })
              }
            />
          </Box>
        </>
      )}
    </SectionForm>
  );
}

const CARDHOLDER = 'Name on a card that is typed';

/** Whether one thing is asked. */
function Asked({ label, register }: { readonly label: string; readonly register: UseFormRegisterReturn }) {
  return (
    <Table.Row h="36px">
      <Table.Cell py="0">{label}</Table.Cell>
      {CHOICES.map((choice) => (
        <Table.Cell key={choice} py="0">
          <label>
            <input type="radio" value={choice} {...register} /> {choice}
          </label>
        </Table.Cell>
      ))}
    </Table.Row>
  );
}
