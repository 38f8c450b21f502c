import {
  Field,
  Input,
  NativeSelect,
  Textarea,
  type InputProps,
  type NativeSelectFieldProps,
  type TextareaProps,
} from '@chakra-ui/react';
import type { ReactNode } from 'react';

interface Props extends Omit<InputProps, 'children'> {
  readonly label: string;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
}

/** A labelled input with its error, or a hint, right under it. */
export function TextField({ label, error, hint, required, ...input }: Props) {
  return (
    <Field.Root invalid={error !== undefined} required={required ?? false} w={input.w ?? 'full'}>
      <Field.Label fontWeight="500">{label}</Field.Label>
      <Input size="sm" bg="page" {...input} w="full" />
      {error !== undefined ? (
        <Field.ErrorText>{error}</Field.ErrorText>
      ) : (
        hint && <Field.HelperText color="muted">{hint}</Field.HelperText>
      )}
    </Field.Root>
  );
}

interface LabelledProps {
  readonly label: string;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
  readonly disabled?: boolean | undefined;
  readonly children: ReactNode;
}

/** The same frame around another kind of input. */
export function LabelledField({ label, error, hint, disabled, children }: LabelledProps) {
  return (
    <Field.Root invalid={error !== undefined} disabled={disabled ?? false}>
      <Field.Label fontWeight="500">{label}</Field.Label>
      {children}
      {error !== undefined ? (
        <Field.ErrorText>{error}</Field.ErrorText>
      ) : (
        hint && <Field.HelperText color="muted">{hint}</Field.HelperText>
      )}
    </Field.Root>
  );
}

interface SelectProps extends NativeSelectFieldProps {
  readonly label: string;
  readonly disabled?: boolean | undefined;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
}

/** A labelled choice of one. */
export function SelectField({ label, error, hint, disabled, children, ...select }: SelectProps) {
  return (
    <LabelledField label={label} error={error} hint={hint} disabled={disabled}>
      <NativeSelect.Root size="sm" disabled={disabled ?? false}>
        <NativeSelect.Field bg="page" {...select}>
          {children}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </LabelledField>
  );
}

interface AreaProps extends TextareaProps {
  readonly label: string;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
}

/** A labelled text of several lines. */
export function AreaField({ label, error, hint, ...area }: AreaProps) {
  return (
    <LabelledField label={label} error={error} hint={hint}>
      <Textarea size="sm" bg="page" {...area} />
    </LabelledField>
  );
}
