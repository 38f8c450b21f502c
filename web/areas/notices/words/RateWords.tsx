import { Box, Button, Flex, Heading, Text } from '@chakra-ui/react';
import type { LetterEvent } from '../../../../core/letters/events.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { SelectField } from '../../../parts/TextField.tsx';
import type { WordsDraft } from './wordsDraft.ts';
import { WordsEditor } from './WordsEditor.tsx';

/** What is added to a letter for subscriptions of one rate alone. */
export function RateWords(props: {
  readonly event: LetterEvent;
  readonly readOnly: boolean;
  readonly byRate: WordsDraft['byRate'];
  readonly errorOf: (rateId: string) => string | undefined;
  readonly onChange: (byRate: WordsDraft['byRate']) => void;
}) {
  const { event, readOnly, byRate, errorOf, onChange } = props;
  const { data: plans } = useAnswer<PlanView[]>(readOnly ? null : '/api/plans');
  const left = (plans ?? []).flatMap((plan) =>
    plan.rates
      .filter((rate) => rate.archivedOn === null && !byRate.some(({ rateId }) => rateId === rate.id))
      .map((rate) => ({ id: rate.id, says: `${plan.name}, ${rate.name}` })),
  );
  return (
    <Box as="section" aria-label="Added for one rate">
      <Heading as="h2" size="md" fontWeight="500" mb="1">
        Added for one rate
      </Heading>
      <Text color="muted" fontSize="13px" mb="2">
        Only subscriptions of that rate get these words, after all others.
      </Text>
      {byRate.map(({ rateId, rate, added }) => (
        <Flex key={rateId} gap="3" align="flex-start">
          <Box flex="1" minW="0">
            <WordsEditor
              label={rate}
              field={`rate ${rateId}`}
              {...{ event, readOnly, lines: added, error: errorOf(rateId) }}
              onChange={(lines) =>
                onChange(byRate.map((one) => (one.rateId === rateId ? { ...one, added: lines } : one)))
              }
            />
          </Box>
          {!readOnly && (
            <Button
              size="xs"
              variant="outline"
              mt="7"
              aria-label={`Take out the words of ${rate}`}
              onClick={() => onChange(byRate.filter((one) => one.rateId !== rateId))}
            >
              Take out
            </Button>
          )}
        </Flex>
      ))}
      {!readOnly && left.length > 0 && (
        <SelectField
          w="320px"
          label="Add words for a rate"
          value=""
          onChange={({ target }) => {
            const rate = left.find(({ id }) => id === target.value);
            if (rate) onChange([...byRate, { rateId: rate.id, rate: rate.says, added: [] }]);
          }}
        >
          <option value="">Choose a rate …</option>
          {left.map(({ id, says }) => (
            <option key={id} value={id}>
              {says}
            </option>
          ))}
        </SelectField>
      )}
    </Box>
  );
}
