import { Box, Flex } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import { DateField } from '../../parts/DateField.tsx';
import { Fold } from '../../parts/Fold.tsx';
import { FormattedText } from '../../parts/FormattedText.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { NO_TEXTS } from './pageDraft.ts';
import type { PartProps } from './partProps.ts';

/** Comes when it is looked at. */
const Documents = lazy(() =>
  import('../plans/plan/ShownFields.tsx').then((part) => ({ default: part.Documents })),
);

/** How long and for how many a page is open, and what whoever has joined is given. */
export function HowItEnds({ draft, faultAt, onChange }: PartProps) {
  const { businessDate } = useFrame();
  const { until, places, language, documents, redirect } = draft;
  const texts = draft.texts[language] ?? NO_TEXTS;
  const [isOpen, setOpen] = useState(documents.length > 0);
  const open = [
    until === '' ? '' : `until ${sayDate(until)}`,
    places === '' ? '' : `${places} places`,
  ].filter(Boolean);
  const after = [
    texts.after === '' ? '' : 'a text',
    documents.length === 0 ? '' : documents.length === 1 ? 'a document' : `${documents.length} documents`,
    redirect === '' ? '' : 'another address',
  ].filter(Boolean);
  return (
    <>
      <Fold
        title="How long, and for how many"
        holds={open.length === 0 ? 'no last day, any number' : open.join(', ')}
      >
        <Flex gap="3" align="flex-start">
          <Box w="240px">
            <DateField
              label="The last day to join"
              field="/until"
              min={businessDate}
              hint="Empty: none."
              value={until}
              error={faultAt('/until')}
              onChange={(event) => onChange({ until: event.target.value })}
            />
          </Box>
          <TextField
            label="Places"
            field="/places"
            w="180px"
            inputMode="numeric"
            maxLength={9}
            hint="Empty: any number."
            value={places}
            error={faultAt('/places')}
            onChange={(event) => onChange({ places: event.target.value })}
          />
        </Flex>
      </Fold>
      <Fold
        title="Once somebody has joined"
        onOpen={() => setOpen(true)}
        holds={`what was charged and what comes${after.length === 0 ? '' : `, ${after.join(', ')}`}`}
      >
        <FormattedText
          key={`after ${language}`}
          label="Text"
          value={texts.after}
          error={faultAt(`/texts/${language}/after`)}
          onChange={(text) => onChange({ texts: { ...draft.texts, [language]: { ...texts, after: text } } })}
        />
        <Box mt="4">
          {isOpen && (
            <Suspense fallback={null}>
              <Documents
                documents={documents}
                faultAt={faultAt}
                onChange={(to) => onChange({ documents: to })}
              />
            </Suspense>
          )}
        </Box>
        <Box mt="4">
          <TextField
            label="They are sent to"
            field="/redirect"
            maxLength={2000}
            placeholder="https://"
            hint="Empty: they stay on the page."
            value={redirect}
            error={faultAt('/redirect')}
            onChange={(event) => onChange({ redirect: event.target.value })}
          />
        </Box>
      </Fold>
    </>
  );
}
