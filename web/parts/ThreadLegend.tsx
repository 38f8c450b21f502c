import { Box, Flex } from '@chakra-ui/react';
import type { MarkKind } from '../../core/thread/thread.ts';
import { Mark } from './ThreadLine.tsx';

const WORDS: readonly (readonly [MarkKind, string])[] = [
  ['collected', 'collected'],
  ['planned', 'planned'],
  ['declined', 'declined'],
  ['retry', 'next step'],
  ['notice', 'letter'],
  ['end', 'end'],
];

/** What the marks of a thread mean. */
export function ThreadLegend() {
  return (
    <Flex gap="4" mt="1" wrap="wrap" color="muted" fontSize="12px" aria-hidden>
      {WORDS.map(([kind, word]) => (
        <Flex key={kind} align="center" gap="1.5">
          <svg width="12" height="20" viewBox="-6 -10 12 20">
            <Mark kind={kind} />
          </svg>
          <Box>{word}</Box>
        </Flex>
      ))}
    </Flex>
  );
}
