import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { MethodRequest } from '../../../server/customers/messages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';

/** Asks many customers for a card by mail: whom it would write to, and who is left out, is said first. */
export function AskMany({ customerIds }: { readonly customerIds: readonly string[] }) {
  const [effect, setEffect] = useState<MethodRequest | null>(null);
  const acting = useAct();
  const ids = [...new Set(customerIds)];
  const look = () =>
    acting.act(async () =>
      setEffect(await post<MethodRequest>('/api/method-requests/effect', { customerIds: ids })),
    );
  const ask = async () => {
    const says = `${sayWritten(effect?.asked ?? 0)} written, and reminders follow.`;
    if (await acting.act(() => post('/api/method-requests', { customerIds: ids }), says)) setEffect(null);
  };
  return (
    <>
      {effect === null ? (
        <Button size="xs" colorPalette="kelp" loading={acting.busy} onClick={() => void look()}>
          Ask for a card by mail …
        </Button>
      ) : (
        <Box>
          <Text>
            {effect.asked === 0
              ? 'Nobody is written to.'
              : `${sayWritten(effect.asked)} written, each with a link to give a card.`}
          </Text>
          {effect.left.length > 0 && (
            <Box
              as="ul"
              maxH="120px"
              overflow="auto"
              fontSize="13px"
              color="muted"
              aria-label="Left out"
              tabIndex={0}
            >
              {effect.left.map(({ customer, why }, i) => (
                <li key={i}>
                  Left out: {customer}, {why}
                </li>
              ))}
            </Box>
          )}
          <Flex gap="2" mt="2">
            {effect.asked > 0 && (
              <Button size="xs" colorPalette="kelp" loading={acting.busy} onClick={() => void ask()}>
                Write {effect.asked === 1 ? 'it' : 'them'}
              </Button>
            )}
            <Button size="xs" variant="outline" bg="page" onClick={() => setEffect(null)}>
              Leave it
            </Button>
          </Flex>
        </Box>
      )}
      <Outcome of={acting} />
    </>
  );
}

const sayWritten = (count: number) => (count === 1 ? 'One letter is' : `${sayCount(count)} letters are`);
