import { Box, Checkbox, Flex, Heading, Link as TextLink, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { PAGE_LANGUAGES, type PageLanguage } from '../../../core/words/signUp/languages.ts';
import type { LetterWordsRow } from '../../../server/notices/wordsMessages.ts';
import { SWITCHED_LETTERS, type SwitchedLetter } from '../../../server/settings/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { faultAt, SectionForm } from './SectionForm.tsx';

const isSwitched = (event: string): event is SwitchedLetter => Object.hasOwn(SWITCHED_LETTERS, event);

/** Every letter, whether it goes out, and the way to its words. The ladders that failed payments climb are in Recover. */
export function RecoveryPage() {
  const { data: letters } = useAnswer<LetterWordsRow[]>('/api/letter-words');
  const always = letters?.filter(({ event }) => !isSwitched(event)) ?? [];
  const wordsOf = (event: string) => letters?.find((row) => row.event === event);
  return (
    <SectionForm
      name="recovery"
      title="Letters that go out"
      margin={() => <Meaning />}
      below={
        always.length > 0 && (
          <Box as="section" aria-label="Letters that always go out" mt="6" maxW="640px">
            <Heading as="h2" size="md" fontWeight="500" mb="1">
              Letters that always go out
            </Heading>
            <Text color="muted" mb="2">
              Without them nobody could pay, or would know what was agreed.
            </Text>
            {always.map((row) => (
              <Row key={row.event} row={row}>
                <Box>{row.says}</Box>
              </Row>
            ))}
          </Box>
        )
      }
    >
      {(form, value) => (
        <Box maxW="640px">
          {(Object.entries(SWITCHED_LETTERS) as [SwitchedLetter, string][]).map(([event, says]) => (
            <Row key={event} row={wordsOf(event)}>
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
            </Row>
          ))}
          <Text role="alert" color="declined">
            {faultAt(form, 'letters')}
          </Text>
        </Box>
      )}
    </SectionForm>
  );
}

/** One letter with what of its words is the business's own, and the way to them. */
function Row({ row, children }: { readonly row: LetterWordsRow | undefined; readonly children: ReactNode }) {
  return (
    <Flex py="1" gap="4" align="center" borderBottomWidth="1px" borderColor="lines">
      <Box flex="1">{children}</Box>
      {row && (
        <>
          <Text color="muted" fontSize="13px">
            {sayOwn(row)}
          </Text>
          <TextLink asChild color="kelp.fg">
            <Link
              to={`/setup/recovery/${encodeURIComponent(row.event)}`}
              aria-label={`Words: ${row.says.toLowerCase()}`}
            >
              Words
            </Link>
          </TextLink>
        </>
      )}
    </Flex>
  );
}

function sayOwn({ ownIn, addedIn, ofRates }: LetterWordsRow): string {
  const named = (languages: readonly PageLanguage[]) =>
    languages.map((language) => PAGE_LANGUAGES[language]).join(', ');
  return [
    ownIn.length > 0 ? `your own in ${named(ownIn)}` : '',
    addedIn.length > 0 ? `added to in ${named(addedIn)}` : '',
    ofRates > 0 ? `${ofRates} ${ofRates === 1 ? 'rate' : 'rates'} of its own` : '',
  ]
    .filter(Boolean)
    .join('; ');
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
      <MarginHeading>In whose language</MarginHeading>
      <Text>
        Each customer is written to in their own language, where it is English, German or French, and in that
        of the business otherwise; dates and amounts stand as in their country.
      </Text>
    </>
  );
}
