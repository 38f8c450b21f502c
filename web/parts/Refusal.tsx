import { Text } from '@chakra-ui/react';
import type { Problem } from '../api/client.ts';

/** Why something cannot be done at all; what is wrong with one field stands beside that instead. */
export function Refusal({ of }: { readonly of: Problem | null | undefined }) {
  if (!of || of.faults.length > 0) return null;
  return (
    <Text role="alert" color="declined" mt="3">
      {of.message}
    </Text>
  );
}
