import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { parseDay } from '../../../../core/dates/day.ts';
import { sayDate } from '../../../../core/words/date.ts';
import type { FirstLetterMessage } from '../../../../server/reckonings/firstLetterMessages.ts';
import type { RateView } from '../../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../../server/rateCards/messages.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { AreaField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { Fold } from '../../../parts/Fold.tsx';
import type { ChoiceDraft } from './choice.ts';
import { CardAndCode } from './ChoiceFields.tsx';
import type { EnrolDraft } from './enrolDraft.ts';
import { sayOwn, type OwnDraft } from './ownDraft.ts';

/** Seldom looked at. */
const OwnFields = lazy(() => import('./OwnFields.tsx'));
const FirstLetter = lazy(() => import('./FirstLetter.tsx'));
const WithLetters = lazy(() => import('./WithLetters.tsx'));

interface Props {
  readonly draft: EnrolDraft;
  readonly rate: RateView | undefined;
  /** What the first letter is made of; null while no rate is chosen. */
  readonly letter: FirstLetterMessage | null;
  readonly cards: readonly TakeableCard[];
  readonly codeSays: string | undefined;
  readonly codeHint: string;
  readonly faultAt: (field: string) => string | undefined;
  /** Something is written into the fields of the invoice that need not be. */
  readonly hasWords: boolean;
  /** There are terms of service. */
  readonly hasTerms: boolean;
  readonly onChange: (to: Partial<EnrolDraft>) => void;
  readonly onChoice: (to: Partial<ChoiceDraft>) => void;
  readonly onOwn: (to: Partial<OwnDraft>) => void;
  /** The fields of the invoice that need not be filled. */
  readonly children: ReactNode;
}

/** What is seldom needed of an enrolment, folded away under a line that says what it holds. */
export function MoreFields(props: Props) {
  const {
    draft,
    rate,
    letter,
    cards,
    codeSays,
    codeHint,
    faultAt,
    hasWords,
    hasTerms,
    onChange,
    onChoice,
    onOwn,
    children,
  } = props;
  const { businessDate } = useFrame();
  const [reads, setReads] = useState(false);
  const [tells, setTells] = useState(false);
  const { starts, lastDay, choice } = draft;
  const own = sayOwn(draft.own);
  const holds = [
    starts === businessDate ? 'starts today' : `starts ${parseDay(starts) === null ? '?' : sayDate(starts)}`,
    choice.code ? `code ${choice.code}` : 'no discount',
    ...(choice.cardId ? ['a rate card'] : []),
    lastDay ? 'a last day' : 'ends as the rate says',
    ...own,
    ...(draft.firstLetter
      ? draft.firstWords.trim()
        ? ['own words in the first letter']
        : []
      : ['no first letter']),
    ...(draft.asksTerms ? ['asks to agree to the terms'] : []),
    ...(draft.contacts.length > 0 ? [`letters to ${draft.contacts.length + 1} people`] : []),
    ...(draft.files.length > 0
      ? [draft.files.length === 1 ? 'a document' : `${draft.files.length} documents`]
      : []),
    ...(hasWords ? ['words for the invoice'] : []),
    ...(draft.staffNote.trim() ? ['a note for staff'] : []),
  ];
  const isGiven =
    !draft.firstLetter ||
    draft.firstWords !== '' ||
    draft.asksTerms ||
    draft.contacts.length + draft.files.length > 0 ||
    starts !== businessDate ||
    choice.code !== '' ||
    lastDay !== '' ||
    choice.cardId !== null ||
    own.length > 0;
  const [opened, setOpened] = useState(isGiven);
  return (
    <Fold title="More" holds={holds.join(', ')} open={isGiven} onOpen={() => setOpened(true)}>
      <Grid gap="4">
        <Flex gap="3" align="flex-start" wrap="wrap">
          <DateField
            label="Starts"
            field="starts"
            w="200px"
            required
            min={businessDate}
            value={starts}
            error={faultAt('starts')}
            onChange={(event) => onChange({ starts: event.target.value })}
          />
          {rate && (
            <>
              <CardAndCode
                draft={choice}
                cards={cards}
                codeSays={codeSays}
                codeHint={codeHint}
                onChange={onChoice}
              />
              <DateField
                label="Last day, of this subscription alone"
                field="lastDay"
                w="260px"
                min={parseDay(starts) === null ? businessDate : starts}
                value={lastDay}
                error={faultAt('lastDay')}
                hint={lastDaySays(rate)}
                disabled={endsByItself(rate)}
                onChange={(event) => onChange({ lastDay: event.target.value })}
              />
            </>
          )}
        </Flex>
        {rate && opened && (
          <Suspense fallback={<Text color="muted">Loading …</Text>}>
            <OwnFields rate={rate} draft={draft.own} faultAt={faultAt} onChange={onOwn} />
          </Suspense>
        )}
        {hasTerms && (
          <TickField
            label="They are asked to agree to the terms of service on their own page, before they pay there"
            checked={draft.asksTerms}
            onChange={(asksTerms) => onChange({ asksTerms })}
          />
        )}
        <TickField
          label="The first letter goes out on the first day"
          checked={draft.firstLetter}
          onChange={(firstLetter) => onChange({ firstLetter })}
        />
        {draft.firstLetter && (
          <AreaField
            label="Own words in the first letter"
            field="firstWords"
            rows={2}
            maxLength={2000}
            value={draft.firstWords}
            error={faultAt('firstWords')}
            onChange={(event) => onChange({ firstWords: event.target.value })}
          />
        )}
        {draft.firstLetter && letter && (
          <Box>
            <Button size="xs" variant="outline" aria-expanded={reads} onClick={() => setReads(!reads)}>
              {reads ? 'Put the letter away' : 'See the letter as it will be read'}
            </Button>
            {reads && (
              <Box mt="2">
                <Suspense fallback={<Text color="muted">Loading …</Text>}>
                  <FirstLetter
                    message={letter}
                    files={draft.files.flatMap(({ name, goesWith }) =>
                      goesWith === 'first letter' ? [name] : [],
                    )}
                  />
                </Suspense>
              </Box>
            )}
          </Box>
        )}
        {tells || draft.contacts.length + draft.files.length > 0 ? (
          <Suspense fallback={<Text color="muted">Loading …</Text>}>
            <WithLetters {...{ draft, faultAt, onChange }} />
          </Suspense>
        ) : (
          <Box>
            <Button size="xs" variant="outline" onClick={() => setTells(true)}>
              Who else gets letters, and documents with them
            </Button>
          </Box>
        )}
        {children}
        <AreaField
          label="Note for staff alone"
          field="staffNote"
          rows={2}
          maxLength={4000}
          hint="It stands on the page of the customer, and nobody else reads it."
          value={draft.staffNote}
          error={faultAt('staffNote')}
          onChange={(event) => onChange({ staffNote: event.target.value })}
        />
      </Grid>
    </Fold>
  );
}

/** Whether a rate ends after a number of payments, so that no other last day can be given. */
const endsByItself = ({ terms }: RateView) =>
  terms.lines === undefined || (terms.ends as { after?: number } | undefined)?.after !== undefined;

function lastDaySays(rate: RateView): string {
  if (rate.terms.lines === undefined) return 'It is sold once.';
  if (endsByItself(rate)) return 'This rate ends after its payments.';
  return 'Empty: as the rate says. The last period is charged for its days.';
}
