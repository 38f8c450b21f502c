import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { Archivable } from '../../server/plans/messages.ts';
import { put } from '../api/client.ts';
import { useAct } from '../api/useAct.ts';
import { Outcome } from './Outcome.tsx';

type Kept = Archivable | 'sign-up page';

const STOPS: Readonly<Record<Kept, string>> = {
  plan: 'Nobody new can be enrolled.',
  rate: 'Nobody new can be enrolled.',
  variant: 'Nobody new can be enrolled.',
  'rate card': 'Nobody takes it any more.',
  discount: 'Its codes are refused from then on.',
  'sign-up page': 'Nobody can join on it any more, and its address leads nowhere.',
};

/** Takes something of the offer out of use, after saying what that does; or puts it back. */
export function Archive(props: {
  readonly what: Kept;
  readonly id: string;
  readonly name: string;
  readonly archived: boolean;
  /** How many have it now, and keep it. */
  readonly subscribers: number;
  readonly onDone?: () => void;
}) {
  const { what, id, name, archived, subscribers, onDone } = props;
  const [asking, setAsking] = useState(false);
  const acting = useAct();
  const set = async (to: boolean) => {
    const path = `/api/${what.replace(' ', '-')}s/${id}/archived`;
    if (!(await acting.act(() => put(path, { archived: to })))) return;
    setAsking(false);
    onDone?.();
  };
  return (
    <Box mt="6">
      {archived ? (
        <Button size="xs" variant="outline" loading={acting.busy} onClick={() => void set(false)}>
          Restore {name}
        </Button>
      ) : asking ? (
        <Box borderLeftWidth="3px" borderColor="declined" pl="3" role="group" aria-label="Archive">
          <Text>
            {STOPS[what]}{' '}
            {subscribers === 0 ? 'Nobody has it now.' : `The ${subscribers} who have it go on as they are.`}{' '}
            It can be restored.
          </Text>
          <Flex gap="2" mt="2">
            <Button size="xs" bg="declined" color="page" loading={acting.busy} onClick={() => void set(true)}>
              Archive {name}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setAsking(false)}>
              Keep it
            </Button>
          </Flex>
        </Box>
      ) : (
        <Button size="xs" variant="outline" onClick={() => setAsking(true)}>
          Archive the {what} …
        </Button>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
