import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { EnrolmentDraft, EnrolmentDraftRow } from '../../../server/reckonings/draftMessages.ts';
import { remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { OF_ITS_OWN } from './enrol/ofItsOwn.ts';

const NOBODY = 'nobody yet';
const NOTHING = 'nothing chosen yet';

const COLUMNS: readonly Column<EnrolmentDraftRow>[] = [
  { heading: 'For', sort: 'who', width: '28%', cell: ({ who }) => who || NOBODY },
  { heading: 'What', sort: 'what', cell: ({ what }) => what || NOTHING },
  { heading: 'Saved by', width: '130px', cell: ({ savedBy }) => savedBy },
  { heading: 'On', sort: 'saved', width: '120px', cell: ({ savedOn }) => sayDayMonthYear(savedOn) },
];

/** Half-filled enrolments and invoices, for whoever goes on with them. */
export function DraftsPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('draft');
  const choose = (id: string | null) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        if (id === null) next.delete('draft');
        else next.set('draft', id);
        return next;
      },
      { replace: true },
    );
  return (
    <PageAndMargin
      title="Drafts"
      action={
        <Flex gap="2">
          <Button asChild size="sm" variant="outline">
            <Link to="/enrol">Enrol a customer</Link>
          </Button>
          <Button asChild size="sm" variant="outline">
            <Link to="/enrol" state={{ recurring: OF_ITS_OWN }}>
              Invoice something
            </Link>
          </Button>
        </Flex>
      }
      marginLabel="The chosen draft"
      margin={chosen !== null && <Chosen key={chosen} id={chosen} onGone={() => choose(null)} />}
    >
      <Text color="muted" mb="3">
        Enrolments and invoices that are half filled in. Nothing of them is charged, numbered or sent before
        somebody finishes them.
      </Text>
      <ListPage<EnrolmentDraftRow>
        path="/api/enrolment-drafts"
        label="drafts"
        columns={COLUMNS}
        states={[]}
        empty={
          <Text>
            There is no draft. Whoever{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/enrol">enrols a customer</Link>
            </TextLink>{' '}
            or invoices something can save what is filled in so far, for later or for a colleague.
          </Text>
        }
        chosen={chosen}
        onChoose={({ id }) => choose(id)}
      />
    </PageAndMargin>
  );
}

function Chosen({ id, onGone }: { readonly id: string; readonly onGone: () => void }) {
  const { data: draft, error } = useAnswer<EnrolmentDraft>(`/api/enrolment-drafts/${id}`);
  const [asking, setAsking] = useState(false);
  const acting = useAct();
  if (error) return <Text>{error.message}</Text>;
  if (!draft || draft.id !== id) return null;
  const throwAway = async () => {
    if (await acting.act(() => remove(`/api/enrolment-drafts/${id}`))) onGone();
  };
  return (
    <>
      <MarginHeading>{draft.who || NOBODY}</MarginHeading>
      <Text mb="1">{draft.what || NOTHING}</Text>
      <Text color="muted" mb="3">
        Saved by {draft.savedBy} on {sayDate(draft.savedOn)}.
      </Text>
      <Button asChild size="sm" colorPalette="kelp">
        <Link to={`/enrol?draft=${id}`}>Go on with it</Link>
      </Button>
      <Box mt="6">
        {asking ? (
          <Box borderLeftWidth="3px" borderColor="declined" pl="3" role="group" aria-label="Throw it away">
            <Text>What was typed is gone then, for everybody.</Text>
            <Flex gap="2" mt="2">
              <Button
                size="xs"
                bg="declined"
                color="page"
                loading={acting.busy}
                onClick={() => void throwAway()}
              >
                Throw it away
              </Button>
              <Button size="xs" variant="outline" onClick={() => setAsking(false)}>
                Keep it
              </Button>
            </Flex>
          </Box>
        ) : (
          <Button size="xs" variant="outline" onClick={() => setAsking(true)}>
            Throw it away …
          </Button>
        )}
        <Outcome of={acting} />
      </Box>
    </>
  );
}
