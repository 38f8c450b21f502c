import { Box } from '@chakra-ui/react';

/** Which meaning, and so which colour, a state has. The word always stands beside it. */
const MEANING: Readonly<Record<string, string>> = {
  active: 'collected',
  paid: 'collected',
  credit: 'collected',
  collected: 'collected',
  done: 'collected',
  recovered: 'collected',
  sent: 'collected',
  trial: 'trial',
  scheduled: 'planned',
  open: 'planned',
  issued: 'planned',
  'under way': 'planned',
  waiting: 'trial',
  refunded: 'paused',
  'part refunded': 'paused',
  queued: 'planned',
  held: 'paused',
  'part-paid': 'planned',
  overdue: 'declined',
  declined: 'declined',
  'given up': 'declined',
  lapsed: 'declined',
  undeliverable: 'declined',
  refused: 'declined',
  failed: 'declined',
  paused: 'paused',
};

/** A state as a word, with a short stroke before it in the colour of its meaning. */
export function StateMark({ state }: { readonly state: string }) {
  const colour = MEANING[state] ?? 'muted';
  return (
    <Box as="span" whiteSpace="nowrap" color={colour} fontWeight="550">
      <Box
        as="span"
        aria-hidden
        display="inline-block"
        w="10px"
        h="3px"
        bg={colour}
        mr="6px"
        verticalAlign="middle"
      />
      {state}
    </Box>
  );
}
