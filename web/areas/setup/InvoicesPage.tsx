import { Box, Button, Checkbox, Flex, Text } from '@chakra-ui/react';
import { MOST_INVOICE_FIELDS } from '../../../server/settings/messages.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { AreaField, TextField } from '../../parts/TextField.tsx';
import { CountField, faultAt, field, SectionForm } from './SectionForm.tsx';

/** How invoices are numbered, and what they say beside their lines. */
export function InvoicesPage() {
  return (
    <SectionForm
      name="invoicing"
      title="Invoices"
      margin={(value) => (
        <>
          <MarginHeading>The next invoice</MarginHeading>
          <Text fontFamily="heading" fontSize="26px" overflowWrap="anywhere">
            {value.prefix}
            {Number.isFinite(value.nextNumber) ? value.nextNumber : '?'}
          </Text>
          <Text color="muted">
            Due{' '}
            {value.paymentTermDays === 0
              ? 'on the day it is issued'
              : `${value.paymentTermDays || 0} days after`}
            , where a rate made from now on says nothing else.
          </Text>
          <MarginHeading>What this changes</MarginHeading>
          <Text>
            Invoices issued from now on. Numbers are given without a gap; the next number can be raised, which
            begins a new series, and never lowered.
          </Text>
        </>
      )}
    >
      {(form, value) => (
        <>
          <Flex gap="4">
            <TextField
              label="Prefix"
              maxLength={20}
              hint="Such as FH- or 2027/."
              {...field(form, 'prefix')}
            />
            <CountField form={form} path="nextNumber" label="Next number" least={1} most={999999999999} />
            <CountField form={form} path="paymentTermDays" label="Payment term, days" least={0} most={365} />
          </Flex>
          <AreaField
            label="Note"
            rows={2}
            maxLength={1000}
            hint="Stands above the lines."
            {...field(form, 'note')}
          />
          <AreaField
            label="Footer"
            rows={2}
            maxLength={1000}
            hint="Register, bank, whatever the law asks for."
            {...field(form, 'footer')}
          />
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="1">
              Fields of your own
            </Text>
            <Text color="muted" mb="3">
              Asked for at enrolment and printed on each invoice of the subscription.
            </Text>
            {value.fields.map((_, i) => (
              <Flex key={i} gap="3" align="flex-start" mb="2">
                <TextField
                  label={`Field ${i + 1}`}
                  maxLength={60}
                  {...form.register(`fields.${i}.label`)}
                  error={faultAt(form, `fields.${i}.label`)}
                />
                <Checkbox.Root
                  colorPalette="kelp"
                  mt="8"
                  checked={value.fields[i]?.required ?? false}
                  onCheckedChange={({ checked }) =>
                    form.setValue(`fields.${i}.required`, checked === true, { shouldDirty: true })
                  }
                >
                  <Checkbox.HiddenInput />
                  <Checkbox.Control />
                  <Checkbox.Label>required</Checkbox.Label>
                </Checkbox.Root>
                <Button
                  mt="7"
                  size="xs"
                  variant="ghost"
                  onClick={() =>
                    form.setValue(
                      'fields',
                      value.fields.filter((__, j) => j !== i),
                      { shouldDirty: true },
                    )
                  }
                >
                  Take out
                </Button>
              </Flex>
            ))}
            <Text color="declined">{faultAt(form, 'fields') ?? faultAt(form, 'fields.root')}</Text>
            {value.fields.length < MOST_INVOICE_FIELDS && (
              <Button
                size="xs"
                variant="outline"
                onClick={() =>
                  form.setValue('fields', [...value.fields, { label: '', required: false }], {
                    shouldDirty: true,
                  })
                }
              >
                Add a field
              </Button>
            )}
          </Box>
        </>
      )}
    </SectionForm>
  );
}
