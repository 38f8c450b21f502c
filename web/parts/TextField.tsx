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

/** What every kind of field has around its input. */
export interface FieldProps {
  readonly label: string;
  /** Its name in the form: what a thing that is missing leads to. */
  readonly field?: string | undefined;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
  readonly required?: boolean | undefined;
  readonly disabled?: boolean | undefined;
  readonly w?: string | undefined;
}

/** What a field tells of its new value, in the shape that inputs tell it. */
export type FieldChange = (event: { readonly target: { readonly value: string } }) => void;

/** A label, an input, and right under it what is wrong, or a hint. */
export function LabelledField(props: FieldProps & { readonly children: ReactNode }) {
  const { label, field, error, hint, required, disabled, w, children } = props;
  return (
    <Field.Root
      invalid={error !== undefined}
      required={required ?? false}
      disabled={disabled ?? false}
      w={w ?? 'full'}
      flexShrink={w === undefined ? 1 : 0}
      data-field={field}
    >
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

type Around<Own> = FieldProps & Omit<Own, keyof FieldProps | 'children'>;

/** A line of text. */
export function TextField({
  label,
  field,
  error,
  hint,
  required,
  disabled,
  w,
  ...input
}: Around<InputProps>) {
  return (
    <LabelledField {...{ label, field, error, hint, required, disabled, w }}>
      <Input size="sm" bg="page" {...input} w="full" />
    </LabelledField>
  );
}

/** A choice of one. */
export function SelectField(props: Around<NativeSelectFieldProps> & { readonly children: ReactNode }) {
  const { label, field, error, hint, required, disabled, w, children, ...select } = props;
  return (
    <LabelledField {...{ label, field, error, hint, required, disabled, w }}>
      <NativeSelect.Root size="sm" disabled={disabled ?? false}>
        <NativeSelect.Field bg="page" {...select}>
          {children}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </LabelledField>
  );
}

/** A text of several lines. */
export function AreaField({
  label,
  field,
  error,
  hint,
  required,
  disabled,
  w,
  ...area
}: Around<TextareaProps>) {
  return (
    <LabelledField {...{ label, field, error, hint, required, disabled, w }}>
      <Textarea size="sm" bg="page" {...area} />
    </LabelledField>
  );
}
