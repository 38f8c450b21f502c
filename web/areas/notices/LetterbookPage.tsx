import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, Suspense } from 'react';
import { Link, useSearchParams } from 'react-router';
import { capital } from '../../../core/words/capital.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import {
  LETTER_STATES,
  type LettersHeld,
  type LetterRow,
  type LetterView,
} from '../../../server/notices/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Loading } from '../../frame/PageLoading.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

const LetterActs = lazy(() => import('./LetterActs.tsx').then((part) => ({ default: part.LetterActs })));

/** The events on which letters are written, as they are filtered by. */
const EVENTS: Readonly<Record<string, string>> = Object.fromEntries(
  [
    ...['started', 'trial ending', 'trial without a card', 'renewal coming', 'receipt', 'confirm payment'],
    ...['payment declined', 'payment still declined', 'last reminder', 'lapsed', 'invoice overdue'],
    ...['invoice to pay', 'invoice reminder', 'invoice in parts', 'part due', 'credit note', 'refund'],
    ...['card expiring', 'card replaced', 'mandate request', 'mandate confirmed', 'mandate withdrawn'],
    ...['terms changing', 'subscription altered', 'cancelled', 'ended', 'message'],
  ].map((event) => [event, capital(event)]),
);

const COLUMNS: readonly Column<LetterRow>[] = [
  { heading: 'Written', sort: 'written', width: '118px', cell: (row) => sayDayMonthYear(row.writtenOn) },
  { heading: 'To', sort: 'customer', width: '22%', cell: (row) => row.customer },
  { heading: 'Subject', cell: (row) => row.subject, under: (row) => row.reason },
  { heading: 'Fate', width: '124px', cell: (row) => <StateMark state={row.state} /> },
];

/** Every letter that was written, as it looks to its reader, and what is about to go out: it can be held, let go, or sent again. */
export function LetterbookPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('letter');
  const choose = (row: LetterRow) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('letter', row.id);
        return next;
      },
      { replace: true },
    );
  return (
    <PageAndMargin
      title="Letterbook"
      marginLabel="The chosen letter"
      margin={chosen !== null && <Chosen id={chosen} />}
    >
      <Held />
      <ListPage<LetterRow>
        path="/api/letters"
        label="letters"
        states={Object.keys(LETTER_STATES)}
        kinds={EVENTS}
        anyKind="Any event"
        dates={{ written: 'Written' }}
        chosen={chosen}
        onChoose={choose}
        several={{
          nameOf: (row) => `the letter to ${row.customer}: ${row.subject}`,
          act: (rows) => (
            <Suspense fallback={null}>
              <LetterActs ids={rows.map(({ id }) => id)} />
            </Suspense>
          ),
        }}
        empty={<Text>No letter has been written yet. Receipts, reminders and welcomes are kept here.</Text>}
        columns={COLUMNS}
      />
    </PageAndMargin>
  );
}

/** Whether all letters are held, how many wait, and the way to change it. */
function Held() {
  const { data: held } = useAnswer<LettersHeld>('/api/letters/held');
  const acting = useAct();
  if (!held) return null;
  const hold = (on: boolean) =>
    acting.act(
      () => post('/api/letters/held', { hold: on }),
      on ? 'Letters to customers are held from now on.' : 'Letters go out again.',
    );
  const waiting = held.waiting + held.held;
  return (
    <Box mb="4">
      <Flex gap="3" align="center" wrap="wrap" role="status">
        <Text
          color={held.since === null ? 'muted' : 'paused'}
          fontWeight={held.since === null ? '400' : '600'}
        >
          {held.since === null
            ? 'Letters go out as they are written, outside of quiet hours.'
            : `All letters to customers are held since ${sayDate(held.since)}. Nobody loses a subscription meanwhile without having been written to.`}
        </Text>
        {waiting > 0 && (
          <TextLink asChild color="kelp.fg">
            <Link to="/letters?state=to+be+sent">
              {waiting === 1 ? 'One is' : `${waiting.toLocaleString('en')} are`} about to be sent
              {held.held > 0 ? `, ${held.held} of them held` : ''}
            </Link>
          </TextLink>
        )}
        <ForWriters>
          <Button
            size="xs"
            variant="outline"
            loading={acting.busy}
            onClick={() => void hold(held.since === null)}
          >
            {held.since === null ? 'Hold all letters' : `Let all letters go (${held.waiting})`}
          </Button>
        </ForWriters>
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}

function Chosen({ id }: { readonly id: string }) {
  const { data: letter, error } = useAnswer<LetterView>(`/api/letters/${id}`);
  if (error) return <Text color="declined">{error.message}</Text>;
  if (letter?.id !== id) return <Loading shape="margin" />;
  return (
    <>
      <MarginHeading>{letter.subject}</MarginHeading>
      <Text color="muted" wordBreak="break-word">
        To{' '}
        <TextLink asChild>
          <Link to={`/customers/${letter.customerId}`}>{letter.customer}</Link>
        </TextLink>
        , {letter.to}
      </Text>
      <Text color="muted">
        {sayDate(letter.writtenOn)}, {letter.event}: {letter.reason}
      </Text>
      <Text color="muted" mb="3">
        {letter.fate || 'Waiting to be sent'}
      </Text>
      {letter.files.length > 0 && <Text mb="3">With it: {letter.files.join(', ')}</Text>}
      <ForWriters>
        <Box mb="3">
          <Suspense fallback={null}>
            <LetterActs key={`${id}:${letter.state}`} ids={[id]} state={letter.state} />
          </Suspense>
        </Box>
      </ForWriters>
      <Box borderWidth="1px" borderColor="lines" borderRadius="md" overflow="hidden">
        <iframe
          title={`Letter: ${letter.subject}`}
          srcDoc={letter.html}
          sandbox="allow-popups allow-popups-to-escape-sandbox"
          style={{ width: '100%', height: '560px', border: 0, display: 'block', background: '#F3F6F4' }}
        />
      </Box>
    </>
  );
}
