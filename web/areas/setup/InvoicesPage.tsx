import { OwnFieldsEditor } from './OwnFieldsEditor.tsx';
import { Box, Flex, Text } from '@chakra-ui/react';
import { LINE_COLUMNS, MOST_INVOICE_FIELDS, USUAL_REMINDER_DAYS } from '../../../server/settings/messages.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
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
          <Flex gap="4">
            <TextField
              label="Prefix of credit notes"
              maxLength={20}
              hint="They count by themselves."
              {...field(form, 'creditNotePrefix')}
            />
            <SelectField label="Lines show" {...field(form, 'columns')}>
              {Object.entries(LINE_COLUMNS).map(([columns, says]) => (
                <option key={columns} value={columns}>
                  {says}
                </option>
              ))}
            </SelectField>
          </Flex>
          <Flex gap="4" align="flex-end">
            <TickField
              label="Remind who pays by hand before an invoice falls due"
              checked={value.remindDaysBefore !== null}
              onChange={(on) =>
                form.setValue('remindDaysBefore', on ? USUAL_REMINDER_DAYS : null, { shouldDirty: true })
              }
            />
            {value.remindDaysBefore !== null && (
              <Box w="160px">
                <CountField form={form} path="remindDaysBefore" label="Days before" least={1} most={60} />
              </Box>
            )}
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
            <OwnFieldsEditor
              fields={value.fields}
              most={MOST_INVOICE_FIELDS}
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
