import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { put } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';

/** Takes a plan, a rate or a variant off sale, after saying what that does; or puts it back. */
export function Archive(props: {
  readonly what: 'plan' | 'rate' | 'variant';
  readonly id: string;
  readonly name: string;
  readonly archived: boolean;
  readonly subscribers: number;
}) {
  const { what, id, name, archived, subscribers } = props;
  const [asking, setAsking] = useState(false);
  const acting = useAct();
  const set = async (to: boolean) => {
    if (await acting.act(() => put(`/api/${what}s/${id}/archived`, { archived: to }))) setAsking(false);
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
            Nobody new can be enrolled.{' '}
            {subscribers === 0
              ? 'Nobody subscribes now.'
              : `The ${subscribers} who subscribe go on as they are.`}{' '}
            It can be restored.
          </Text>
          <Flex gap="2" mt="2">
            <Button size="xs" colorPalette="red" loading={acting.busy} onClick={() => void set(true)}>
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
