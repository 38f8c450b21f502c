import { Box, Button, Flex, Text } from '@chakra-ui/react';
import type { SessionView } from '../../../server/staff/messages.ts';
import { remove } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';

interface Props {
  readonly sessions: readonly SessionView[];
  readonly withNames?: boolean;
}

/** Sessions that are good now, each with a button that ends it at once. */
export function Sessions({ sessions, withNames = false }: Props) {
  const acting = useAct();
  return (
    <>
      {sessions.map((session) => (
        <Flex key={session.id} borderTopWidth="1px" borderColor="lines" py="2" gap="3" align="center">
          <Box flex="1" minW="0">
            <Text truncate>
              {withNames && <b>{session.person}, </b>}
              {sayAgent(session.agent)} at {session.address || 'an unknown address'}
            </Text>
            <Text color="muted" fontSize="13px">
              since {sayInstant(session.createdAt)}, seen last {sayInstant(session.seenAt)}
            </Text>
          </Box>
          {session.isThis ? (
            <Text color="muted">this one</Text>
          ) : (
            <Button
              size="xs"
              variant="ghost"
              onClick={() =>
                void acting.act(() => remove(`/api/sessions/${session.id}`), 'That session has ended.')
              }
            >
              End it
            </Button>
          )}
        </Flex>
      ))}
      <Outcome of={acting} />
    </>
  );
}

/** A browser in a few words, from its user agent; whatever else it says of itself is left out. */
function sayAgent(agent: string): string {
  const browser = /(Firefox|Edg|Chrome|Safari)\/(\d+)/.exec(agent);
  const system = /(Windows|Mac OS X|Android|iPhone|iPad|Linux)/.exec(agent)?.[1];
  const name = browser ? `${browser[1] === 'Edg' ? 'Edge' : browser[1]} ${browser[2]}` : 'A program';
  return system ? `${name} on ${system}` : name;
}
