import { Box, Checkbox, RadioGroup, Text } from '@chakra-ui/react';
import { STARTING_LADDERS, type StartingLadder } from '../../../core/recovery/ladder.ts';
import { sayDate } from '../../../core/words/date.ts';
import { formatDay, toDay } from '../../../core/dates/day.ts';
import {
  SWITCHED_LETTERS,
  type SectionValue,
  type SwitchedLetter,
} from '../../../server/settings/messages.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { SelectField } from '../../parts/TextField.tsx';
import { faultAt, field, SectionForm } from './SectionForm.tsx';

const FINALS = {
  lapse: 'The subscription lapses; the invoice stays open',
  end: 'The subscription ends',
  'lapse and write off': 'The subscription lapses and the invoice is written off',
  leave: 'All is left as it is',
} as const;

/** Which ladder failed payments climb, what happens at its end, and which letters are on. */
export function RecoveryPage() {
  return (
    <SectionForm name="recovery" title="Recovery" margin={(value) => <Meaning value={value} />}>
      {(form, value) => (
        <>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              The ladder that all failed payments climb
            </Text>
            <RadioGroup.Root
              value={value.ladder}
              onValueChange={({ value: chosen }) => form.setValue('ladder', chosen, { shouldDirty: true })}
              colorPalette="kelp"
            >
              {Object.entries(STARTING_LADDERS).map(([key, { name, says }]) => (
                <RadioGroup.Item key={key} value={key} alignItems="flex-start" mb="2">
                  <RadioGroup.ItemHiddenInput />
                  <RadioGroup.ItemIndicator mt="1" />
                  <RadioGroup.ItemText>
                    <b>{name}.</b> {says}
                  </RadioGroup.ItemText>
                </RadioGroup.Item>
              ))}
            </RadioGroup.Root>
          </Box>
          <SelectField label="At its end" {...field(form, 'finalAction')}>
            {Object.entries(FINALS).map(([action, says]) => (
              <option key={action} value={action}>
                {says}
              </option>
            ))}
          </SelectField>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              Letters that go out
            </Text>
            {(Object.entries(SWITCHED_LETTERS) as [SwitchedLetter, string][]).map(([event, says]) => (
              <Box key={event} py="1">
                <Checkbox.Root
                  colorPalette="kelp"
                  checked={value.letters[event] !== false}
                  onCheckedChange={({ checked }) =>
                    form.setValue(
                      'letters',
                      { ...value.letters, [event]: checked === true },
                      { shouldDirty: true },
                    )
                  }
                >
                  <Checkbox.HiddenInput />
                  <Checkbox.Control />
                  <Checkbox.Label>{says}</Checkbox.Label>
                </Checkbox.Root>
              </Box>
            ))}
            <Text role="alert" color="declined">
              {faultAt(form, 'letters')}
            </Text>
          </Box>
        </>
      )}
    </SectionForm>
  );
}

function Meaning({ value }: { readonly value: SectionValue<'recovery'> }) {
  const { businessDate } = useFrame();
  const ladder = STARTING_LADDERS[value.ladder as StartingLadder];
  const day = (after: number) => sayDate(formatDay(toDay(businessDate) + after));
  return (
    <>
      <MarginHeading>A card that fails today</MarginHeading>
      <Box as="ol" listStyleType="none" p="0">
        {ladder.rungs.map((rung) => (
          <Box as="li" key={rung.afterDays} py="1" borderTopWidth="1px" borderColor="lines">
            {day(rung.afterDays)}
            <Text color="muted">
              {[rung.retry ? 'try again' : '', rung.letter ? 'write' : ''].filter(Boolean).join(' and ')}
            </Text>
          </Box>
        ))}
        <Box as="li" py="1" borderTopWidth="1px" borderColor="lines" fontWeight="600">
          {day(ladder.finalAfterDays)}
          <Text fontWeight="400">{FINALS[value.finalAction]}</Text>
        </Box>
      </Box>
      <MarginHeading>What this changes</MarginHeading>
      <Text>Payments that fail from now on. Cases that are open climb the ladder they began with.</Text>
    </>
  );
}
