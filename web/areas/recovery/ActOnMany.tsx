import { Box, Button, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { CaseRow } from '../../../server/recovery/messages.ts';
import { ActForm, type ActKind } from './ActForm.tsx';

const ACTS: readonly (readonly [ActKind, string])[] = [
  ['try', 'Try now'],
  ['write', 'Write'],
  ['set aside', 'Set aside'],
  ['assign', 'Give to a person'],
  ['climb by', 'Another ladder'],
  ['give up', 'Give up'],
];

/** What is done with several cases at once: what it would do to each is shown first. */
export function ActOnMany({ rows }: { readonly rows: readonly CaseRow[] }) {
  const [doing, setDoing] = useState<ActKind | null>(null);
  const ids = rows.map(({ id }) => id);
  return (
    <Box>
      <Flex gap="2" wrap="wrap">
        {ACTS.map(([kind, says]) => (
          <Button
            key={kind}
            size="xs"
            variant={doing === kind ? 'solid' : 'outline'}
            bg={doing === kind ? undefined : 'page'}
            colorPalette={doing === kind ? 'kelp' : undefined}
            onClick={() => setDoing(kind)}
          >
            {says}
          </Button>
        ))}
      </Flex>
      {doing !== null && <ActForm key={doing} kind={doing} ids={ids} onClose={() => setDoing(null)} />}
    </Box>
  );
}
