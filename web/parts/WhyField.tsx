import type { FieldChange } from './TextField.tsx';
import { AreaField } from './TextField.tsx';

interface Props {
  readonly value: string;
  readonly error: string | undefined;
  readonly onChange: (why: string) => void;
  readonly hint?: string;
}

/** Why staff do something with money: it stands on the audit, and on a credit note where there is one. */
export function WhyField({ onChange, ...props }: Props) {
  const change: FieldChange = (event) => onChange(event.target.value);
  return <AreaField label="Why" field="reason" rows={2} maxLength={300} onChange={change} {...props} />;
}
