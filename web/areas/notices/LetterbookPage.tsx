import { Box, Text } from '@chakra-ui/react';
import { useSearchParams } from 'react-router';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { LetterRow, LetterView } from '../../../server/notices/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Loading } from '../../frame/PageLoading.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

const EVENTS = [
  'receipt',
  'started',
  'trial ending',
  'payment declined',
  'payment still declined',
  'last reminder',
  'lapsed',
  'card replaced',
  'ended',
  'message',
  'undeliverable',
];

/** Every letter that was written, as it looks to its reader. */
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
      <ListPage<LetterRow>
        path="/api/letters"
        label="letters"
        states={EVENTS}
        chosen={chosen}
        onChoose={choose}
        empty={<Text>No letter has been written yet. Receipts, reminders and welcomes are kept here.</Text>}
        columns={[
          {
            heading: 'Written',
            sort: 'written',
            width: '118px',
            cell: (row) => sayDayMonthYear(row.writtenOn),
          },
          { heading: 'To', sort: 'customer', width: '22%', cell: (row) => row.customer },
          { heading: 'Subject', cell: (row) => row.subject, under: (row) => row.reason },
          { heading: 'Fate', width: '124px', cell: (row) => <StateMark state={row.state} /> },
        ]}
      />
    </PageAndMargin>
  );
}

function Chosen({ id }: { readonly id: string }) {
  const { data: letter, error } = useAnswer<LetterView>(`/api/letters/${id}`);
  if (error) return <Text color="declined">{error.message}</Text>;
  if (!letter) return <Loading shape="margin" />;
  return (
    <>
      <MarginHeading>{letter.subject}</MarginHeading>
      <Text color="muted" wordBreak="break-word">
        To {letter.to}
      </Text>
      <Text color="muted" mb="3">
        {letter.fate || 'Waiting to be sent'}
      </Text>
      {letter.files.length > 0 && <Text mb="3">With it: {letter.files.join(', ')}</Text>}
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
