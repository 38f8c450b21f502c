import { Box, Button } from '@chakra-ui/react';
import { sayInstant } from './sayInstant.ts';
import type { Kept } from './keptDraft.ts';

/** Says that what was typed before is here again, and offers to begin anew. */
export function KeptNote<Draft>({
  kept,
  children,
}: {
  readonly kept: Kept<Draft>;
  readonly children?: string;
}) {
  if (kept.from === null) return null;
  return (
    <Box role="note" borderLeftWidth="3px" borderColor="trial" pl="3" mb="4" maxW="760px">
      What you typed here {sayInstant(kept.from)} is here again. {children}{' '}
      <Button size="2xs" variant="outline" onClick={() => void kept.afresh()}>
        Begin afresh
      </Button>
    </Box>
  );
}
