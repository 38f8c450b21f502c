import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { countries, sayCountry } from '../../../core/words/countries.ts';
import { SelectField } from '../../parts/TextField.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';

interface Notice {
  readonly country: string;
  readonly days: number;
}

interface Props {
  readonly notices: readonly Notice[];
  /** What is wrong at a path below the list, such as `.0.days`. */
  readonly faultAt: (path: string) => string | undefined;
  readonly onChange: (notices: Notice[]) => void;
}

/** Where a trial's end must be told of some days before, country by country. */
export function TrialNotices({ notices, faultAt, onChange }: Props) {
  return (
    <Box role="group" aria-label="Notice of a trial’s end">
      <SelectField
        label="Countries that ask for notice of a trial’s end"
        error={faultAt('')}
        value=""
        onChange={(event) => {
          if (event.target.value !== '') onChange([...notices, { country: event.target.value, days: 7 }]);
        }}
      >
        <option value="">Add a country …</option>
        {countries()
          .filter(({ code }) => !notices.some(({ country }) => country === code))
          .map(({ code, name }) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
      </SelectField>
      {notices.length === 0 && (
        <Text color="muted" mt="2">
          None named: rates alone say how long before its end a trial is told of, usually a week.
        </Text>
      )}
      {notices.map(({ country, days }, i) => (
        <Flex key={country} gap="3" mt="2" align="flex-end">
          <Box w="240px">
            <QuantityField
              label={`${sayCountry(country)}: days before`}
              most={99}
              value={Number.isNaN(days) ? '' : String(days)}
              error={faultAt(`.${i}.days`)}
              onChange={({ target }) => {
                const typed = target.value.trim() === '' ? Number.NaN : Number(target.value);
                onChange(notices.map((one, at) => (at === i ? { country, days: typed } : one)));
              }}
            />
          </Box>
          <Button
            size="xs"
            variant="outline"
            aria-label={`Take out ${sayCountry(country)}`}
            onClick={() => onChange(notices.filter((_, at) => at !== i))}
          >
            Take out
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
