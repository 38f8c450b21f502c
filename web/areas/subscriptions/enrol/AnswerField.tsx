import { Box } from '@chakra-ui/react';
import type { Ask } from '../../../../server/plans/choiceMessages.ts';
import { AreaField, SelectField, TextField } from '../../../parts/TextField.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { DecimalField } from '../../../parts/AmountField.tsx';

interface Props {
  readonly ask: Ask;
  readonly value: string;
  readonly error: string | undefined;
  readonly onChange: (answer: string) => void;
}

/** An answer to what a plan asks, by its kind. */
export function AnswerField({ ask, value, error, onChange }: Props) {
  const { label, kind, hint, required } = ask;
  const common = {
    field: `answer:${label}`,
    label: required ? label : `${label} (if given)`,
    value,
    error,
    hint: hint || undefined,
    onChange: (event: { target: { value: string } }) => onChange(event.target.value),
  };
  switch (kind) {
    case 'long text':
      return <AreaField rows={3} maxLength={1000} {...common} />;
    case 'choice':
    case 'yes or no':
      return (
        <Box w="260px">
          <SelectField {...common}>
            <option value="">Choose …</option>
            {(kind === 'choice' ? ask.choices : ['yes', 'no']).map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
        </Box>
      );
    case 'number':
      return (
        <Box w="180px">
          <DecimalField decimals={6} {...common} />
        </Box>
      );
    case 'date':
      return (
        <Box w="180px">
          <DateField {...common} />
        </Box>
      );
    case 'text':
      return <TextField maxLength={1000} {...common} />;
  }
}
