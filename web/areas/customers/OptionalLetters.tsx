import { Box, Flex, Text } from '@chakra-ui/react';
import { factsOf, OPTIONAL_LETTERS } from '../../../core/letters/events.ts';
import type { StoppedLetters } from '../../../server/customers/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { TickField } from '../../parts/TickField.tsx';

/** The letters that need not be: which of them a customer gets. They stop them themselves by the link at their foot. */
export function OptionalLetters({ customerId }: { readonly customerId: string }) {
  const path = `/api/customers/${customerId}/stopped-letters`;
  const { data } = useAnswer<StoppedLetters>(path);
  const { role } = useFrame();
  const acting = useAct();
  const change = (event: (typeof OPTIONAL_LETTERS)[number], gets: boolean) => {
    const now = data?.stopped ?? [];
    const stopped = gets ? now.filter((one) => one !== event) : [...now, event];
    void acting.act(() => put(path, { stopped }), 'Stored.');
  };
  return (
    <Box as="section" aria-label="Letters that need not be" mt="5">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="1">
        Letters that need not be
      </Text>
      <Text color="muted" fontSize="13px" mb="1">
        The customer can stop these by the link at their foot. All others are owed to them.
      </Text>
      <Flex columnGap="5" wrap="wrap">
        {OPTIONAL_LETTERS.map((event) => (
          <TickField
            key={event}
            label={factsOf(event).says}
            checked={data?.stopped.includes(event) === false}
            disabled={role === 'reader' || acting.busy || !data}
            onChange={(gets) => change(event, gets)}
          />
        ))}
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}
