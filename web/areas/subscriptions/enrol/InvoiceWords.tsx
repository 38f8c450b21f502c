import type { EnrolmentForm } from '../../../../server/subscriptions/messages.ts';
import { TextField } from '../../../parts/TextField.tsx';

interface Props {
  readonly fields: EnrolmentForm['invoiceFields'];
  readonly values: Readonly<Record<string, string>>;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (values: Readonly<Record<string, string>>) => void;
}

/** The business's own fields of invoices, each with what stands in it. */
export function InvoiceWords({ fields, values, faultAt, onChange }: Props) {
  return fields.map(({ label, required }) => (
    <TextField
      key={label}
      label={label}
      field={`invoiceFields/${label}`}
      required={required}
      maxLength={120}
      value={values[label] ?? ''}
      error={faultAt(`invoiceFields/${label}`)}
      onChange={(event) => onChange({ ...values, [label]: event.target.value })}
    />
  ));
}
