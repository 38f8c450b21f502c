import { Field, Input, type InputProps } from '@chakra-ui/react';
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

interface SelectProps {
  readonly label: string;
  readonly error?: string | undefined;
  readonly children: ReactNode;
}

/** The same frame around another kind of input. */
export function LabelledField({ label, error, children }: SelectProps) {
  return (
    <Field.Root invalid={error !== undefined}>
      <Field.Label fontWeight="500">{label}</Field.Label>
      {children}
      {error !== undefined && <Field.ErrorText>{error}</Field.ErrorText>}
    </Field.Root>
  );
}
