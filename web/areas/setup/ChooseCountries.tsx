import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { SelectField } from '../../parts/TextField.tsx';

interface Props {
  readonly label: string;
  readonly chosen: readonly string[];
  /** What none chosen means. */
  readonly none: string;
  readonly error?: string | undefined;
  readonly onChange: (chosen: string[]) => void;
}

/** A set of countries, chosen one by one. */
export function ChooseCountries({ label, chosen, none, error, onChange }: Props) {
  const [next, setNext] = useState('');
  return (
    <Box>
      <SelectField
        label={label}
        error={error}
        value={next}
        onChange={(event) => {
          if (event.target.value !== '') onChange([...chosen, event.target.value]);
          setNext('');
        }}
      >
        <option value="">Add a country …</option>
        {countries()
          .filter(({ code }) => !chosen.includes(code))
          .map(({ code, name }) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
      </SelectField>
      <Flex gap="2" wrap="wrap" mt="2">
        {chosen.length === 0 && <Text color="muted">{none}</Text>}
        {chosen.map((code) => (
          <Button
            key={code}
            size="xs"
            variant="outline"
            aria-label={`Take out ${sayCountry(code)}`}
            onClick={() => onChange(chosen.filter((one) => one !== code))}
          >
            {sayCountry(code)} ×
          </Button>
        ))}
      </Flex>
    </Box>
  );
}
