import { Text } from '@chakra-ui/react';
import type { Acting } from '../api/useAct.ts';

/** How a command went, in words, where a screen reader hears it. */
export function Outcome({ of }: { readonly of: Pick<Acting, 'problem' | 'done'> }) {
  return (
    <Text role="status" mt="2" overflowWrap="anywhere" color={of.problem ? 'declined' : 'collected'}>
      {of.problem?.message ?? of.done}
    </Text>
  );
}
