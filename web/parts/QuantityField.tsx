import { Input } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { printAmount, readWhole } from '../../core/typed/amount.ts';
import { useManner } from './manner.ts';
import { LabelledField, type FieldChange, type FieldProps } from './TextField.tsx';
import { useTyped } from './useTyped.ts';

interface Props extends FieldProps {
  /** The digits, as they are stored. */
  readonly value: string;
  readonly onChange: FieldChange;
  readonly least?: number;
  readonly most: number;
  readonly hint?: ReactNode;
  readonly placeholder?: string;
  readonly 'aria-label'?: string;
}

/** A whole number within limits. What is too large is refused beside the field, never cut short. */
export function QuantityField({ value, onChange, least = 0, most, placeholder, ...props }: Props) {
  const { locale } = useManner();
  const { says, bind } = useTyped({
    value,
    onChange,
    read: (text) => readWhole(text, locale, { least, most }),
    print: (stored) => (stored.length > 4 ? printAmount(stored, locale, 0) : stored),
  });
  return (
    <LabelledField {...props} error={says ?? props.error}>
      <Input
        size="sm"
        bg="page"
        inputMode="numeric"
        autoComplete="off"
        maxLength={40}
        placeholder={placeholder}
        aria-label={props['aria-label']}
        {...bind}
      />
    </LabelledField>
  );
}
