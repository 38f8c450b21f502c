import { Box, Checkbox, Link as TextLink, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { SWITCHED_LETTERS, type SwitchedLetter } from '../../../server/settings/messages.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { faultAt, SectionForm } from './SectionForm.tsx';

/** Which letters go out. The ladders that failed payments climb are in Recover. */
export function RecoveryPage() {
  return (
    <SectionForm name="recovery" title="Letters that go out" margin={() => <Meaning />}>
      {(form, value) => (
        <Box>
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
      )}
    </SectionForm>
  );
}

function Meaning() {
  return (
    <>
      <MarginHeading>When they are written</MarginHeading>
      <Text>
        Letters of recovery go out on the rungs of a ladder, at most one a day to a customer, and never in
        quiet hours. Nobody lapses in silence: not all of them can be off while a ladder ends a subscription.
      </Text>
      <Box mt="3">
        <TextLink asChild color="kelp.fg" fontWeight="600">
          <Link to="/ladders">Open the ladders</Link>
        </TextLink>
      </Box>
    </>
  );
}
