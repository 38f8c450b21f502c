import { Grid, Text } from '@chakra-ui/react';
import { LINE_COLUMNS, type OnInvoices } from '../../../../server/settings/messages.ts';
import { Part } from '../../../parts/Part.tsx';
import { AreaField, SelectField } from '../../../parts/TextField.tsx';

interface Props {
  readonly says: OnInvoices;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<OnInvoices>) => void;
}

/** What stands on the invoices of a plan in place of what Setup says for all. */
export function OnInvoicesFields({ says, faultAt, onChange }: Props) {
  const text = (name: 'note' | 'footer') => ({
    ...{ field: `onInvoices/${name}`, rows: 2, maxLength: 1000, value: says[name] },
    error: faultAt(`/onInvoices/${name}`),
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  return (
    <Part title="On its invoices">
      <Text color="muted" mb="3">
        What is left empty is as Setup, Invoices says for all plans. Invoices issued already stay as they are.
      </Text>
      <Grid gap="4">
        <AreaField label="Note" hint="Stands above the lines." {...text('note')} />
        <AreaField label="Footer" {...text('footer')} />
        <SelectField
          label="Lines show"
          value={says.columns ?? ''}
          onChange={({ target }) => onChange({ columns: (target.value || null) as OnInvoices['columns'] })}
        >
          <option value="">As on all invoices</option>
          {Object.entries(LINE_COLUMNS).map(([columns, name]) => (
            <option key={columns} value={columns}>
              {name}
            </option>
          ))}
        </SelectField>
      </Grid>
    </Part>
  );
}
