import { Button, Flex, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import type { z } from 'zod';
import { countries } from '../../../core/words/countries.ts';
import { languages } from '../../../core/words/languages.ts';
import { customerSchema, type CustomerView } from '../../../server/customers/messages.ts';
import type { Place } from '../../../server/customers/placeMessages.ts';
import { RECEIPTS } from '../../../server/customers/receiptMessages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import type { GroupView } from '../../../server/rateCards/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptForm } from '../../parts/useKeptForm.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { NO_PLACE, PlaceFields } from '../../parts/PlaceFields.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';

/** Changes what is known of a customer. */
export function EditCustomer({
  customer,
  onClose,
}: {
  readonly customer: CustomerView;
  readonly onClose: () => void;
}) {
  const acting = useAct();
  const { data: groups } = useAnswer<GroupView[]>('/api/customer-groups');
  const { id, version, reference: _reference, createdOn: _createdOn, ...value } = customer;
  const form = useForm<z.input<typeof customerSchema>>({
    resolver: zodResolver(customerSchema),
    mode: 'onTouched',
    defaultValues: value,
  });
  const { register, formState } = form;
  const [begun] = useState(value);
  const kept = useKeptForm(form, `customer:${id}:${version}`, begun);
  const store = async (at: number) => {
    const typed = customerSchema.parse(form.getValues());
    if (await acting.act(() => put(`/api/customers/${id}`, { version: at, value: typed }))) {
      kept.forget();
      onClose();
    }
  };
  const bind = (name: Exclude<keyof typeof value, 'shipping' | 'fields'>) => ({
    ...register(name),
    error: formState.errors[name]?.message ?? acting.problem?.at(`/value/${name}`),
  });
  const { data: enrolment } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const ownFields = enrolment?.ownFields ?? [];
  const receipts = useWatch({ control: form.control, name: 'receipts' });
  const shipping = useWatch({ control: form.control, name: 'shipping' }) ?? null;
  const given = useWatch({ control: form.control, name: 'fields' }) ?? {};
  const setShipping = (to: Place | null) =>
    form.setValue('shipping', to, { shouldDirty: true, shouldValidate: formState.isSubmitted });
  const theirs = acting.problem?.theirs;
  return (
    <form noValidate onSubmit={form.handleSubmit(() => store(version))}>
      <MarginHeading>Edit the customer</MarginHeading>
      <KeptNote kept={kept} />
      <Flex direction="column" gap="3">
        <TextField label="Name" required {...bind('name')} />
        <TextField label="E-mail" type="email" required {...bind('email')} />
        <TextField label="Telephone" {...bind('phone')} />
        <TextField label="Organisation" {...bind('organisation')} />
        <AreaField label="Address" rows={3} {...bind('address')} />
        <TextField label="Postcode" {...bind('postcode')} />
        <SelectField label="Country" {...bind('country')}>
          <option value="">Not known</option>
          {countries().map(({ code, name }) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </SelectField>
        <TextField label="Region" {...bind('region')} />
        <TextField
          label="Group"
          list="customer-groups"
          hint="Rate cards can be for a group. A new name makes a new one."
          {...bind('group')}
        />
        <datalist id="customer-groups">
          {groups?.map(({ name }) => (
            <option key={name} value={name} />
          ))}
        </datalist>
        <SelectField
          label="Language"
          hint="What their own page understands of dates and figures; letters are in English so far."
          {...bind('language')}
        >
          <option value="">Not known</option>
          {languages().map(({ code, name }) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </SelectField>
        <TextField label="Tax number" {...bind('taxNumber')} />
        <TickField
          label="Goods go to another address"
          checked={shipping !== null}
          onChange={(on) => setShipping(on ? { ...NO_PLACE, country: form.getValues('country') } : null)}
        />
        {shipping && (
          <PlaceFields
            field="shipping"
            place={{ ...NO_PLACE, ...shipping }}
            offered={enrolment?.shipsTo ?? []}
            faultAt={(member) =>
              formState.errors.shipping?.[member]?.message ?? acting.problem?.at(`/value/shipping/${member}`)
            }
            onChange={setShipping}
          />
        )}
        {ownFields.map(({ label, required }) => (
          <TextField
            key={label}
            label={label}
            required={required}
            maxLength={500}
            value={given[label] ?? ''}
            error={acting.problem?.at(`/value/fields/${label}`)}
            onChange={(event) =>
              form.setValue('fields', { ...given, [label]: event.target.value }, { shouldDirty: true })
            }
          />
        ))}
        <SelectField label="Receipts" {...bind('receipts')}>
          {Object.entries(RECEIPTS).map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </SelectField>
        {receipts === 'never' && <TextField label="No receipts because" required {...bind('receiptsWhy')} />}
        <TextField
          label="Pays no tax because"
          hint="Empty for everybody who pays it."
          {...bind('taxExempt')}
        />
      </Flex>
      <Text color="muted" mt="3">
        Letters, taxes and invoices follow this from now on. What is issued stays as it is.
      </Text>
      {theirs && (
        <Conflict
          mine={form.getValues()}
          theirs={theirs.value as object}
          by={theirs.changedBy}
          onMine={() => void store(theirs.version)}
          onTheirs={onClose}
        />
      )}
      <Flex gap="2" mt="4">
        <Button
          type="submit"
          size="sm"
          colorPalette="kelp"
          loading={acting.busy}
          disabled={!formState.isDirty}
        >
          Store the changes
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </form>
  );
}
