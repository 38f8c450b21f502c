import { Text } from '@chakra-ui/react';
import type { Acting } from '../api/useAct.ts';

/**
 * How a command went, in words, where a screen reader hears it. What stands beside a field already is not said
 * again.
 */
export function Outcome({ of }: { readonly of: Pick<Acting, 'problem' | 'done'> }) {
  const beside = of.problem?.faults.some(({ detail }) => detail === of.problem?.message) ?? false;
  return (
    <Text role="status" mt="2" overflowWrap="anywhere" color={of.problem ? 'declined' : 'collected'}>
      {beside ? '' : (of.problem?.message ?? of.done)}
    </Text>
  );
}
