import { Button, Flex, Link as A, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { meaningOf } from '../../../core/recovery/declineCodes.ts';
import type { ReaderAsk } from '../../../server/gateways/port.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

/** Puts a test amount on the display of the card reader and watches what comes of it. */
export function ReaderTest({ id, page }: { readonly id: string; readonly page: string }) {
  const [ask, setAsk] = useState<string | null>(null);
  const acting = useAct();
  const { data } = useAnswer<ReaderAsk>(ask === null ? null : `/api/gateways/${id}/reader/${ask}`, {
    refreshMs: 1500,
  });
  return (
    <>
      <MarginHeading>Card reader</MarginHeading>
      <Flex gap="2" align="center" wrap="wrap">
        <Button
          size="xs"
          variant="outline"
          loading={acting.busy}
          onClick={() =>
            void acting.act(async () => setAsk((await post<ReaderAsk>(`/api/gateways/${id}/reader`)).id))
          }
        >
          Try the reader
        </Button>
        <A href={page} target="_blank" rel="noreferrer" color="kelp.fg">
          The reader on the counter
        </A>
      </Flex>
      <Text role="status" mt="1">
        {data && sayAsk(data)}
      </Text>
      <Outcome of={acting} />
    </>
  );
}

function sayAsk({ state, code }: ReaderAsk): string {
  switch (state) {
    case 'waiting':
      return 'The amount stands on the reader. Present a card there.';
    case 'collected':
      return 'The reader took the card. It was a test: nothing is booked.';
    case 'declined':
      return `The card was declined: ${meaningOf(code).says}.`;
    case 'cancelled':
      return 'It was cancelled at the reader.';
  }
}
