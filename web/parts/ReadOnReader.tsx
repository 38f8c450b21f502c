import { Button, Flex, Link as A, Text } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { CardRead } from '../../server/gateways/readCards.ts';
import type { ReaderRead } from '../../server/gateways/port.ts';
import { post } from '../api/client.ts';
import type { CardPurpose } from '../api/gateway.ts';
import { useAnswer } from '../api/hooks.ts';
import { useAct } from '../api/useAct.ts';
import { Outcome } from './Outcome.tsx';

interface Props {
  readonly purpose: CardPurpose;
  /** The token of the card that was read, once there is one. */
  readonly onRead: (token: string) => void;
  /** The card was read already. */
  readonly hasRead: boolean;
}

/** Reads a card on the reader on the counter: it is kept by the gateway, and nothing is charged. */
export function ReadOnReader({ purpose, onRead, hasRead }: Props) {
  const [asked, setAsked] = useState<CardRead | null>(null);
  const acting = useAct();
  const { data } = useAnswer<ReaderRead>(
    asked === null || hasRead ? null : `/api/card-reads/${asked.accountId}/${encodeURIComponent(asked.id)}`,
    { refreshMs: 1000 },
  );
  const token = data?.state === 'read' ? data.token : null;
  useEffect(() => {
    if (token !== null) onRead(token);
    // The token alone decides: whoever listens is drawn anew each time.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [token]);
  const { rateId, customerId } = purpose;
  const of = { ...(rateId ? { rateId } : {}), ...(customerId ? { customerId } : {}) };
  const ask = () => acting.act(async () => setAsked(await post<CardRead>('/api/card-reads', of)));
  return (
    <>
      <Flex gap="3" align="center" wrap="wrap">
        <Button
          data-field="reader"
          size="sm"
          variant="outline"
          loading={acting.busy}
          onClick={() => void ask()}
        >
          {asked === null ? 'Read the card on the reader' : 'Read it once more'}
        </Button>
        {asked && (
          <A href={asked.page} target="_blank" rel="noreferrer" color="kelp.fg">
            The reader on the counter
          </A>
        )}
      </Flex>
      <Text role="status" mt="1" color={hasRead ? 'collected' : undefined}>
        {sayRead(asked, data, hasRead)}
      </Text>
      <Outcome of={acting} />
    </>
  );
}

function sayRead(asked: CardRead | null, read: ReaderRead | undefined, hasRead: boolean): string {
  if (hasRead) return 'The card was read.';
  if (asked === null) return '';
  return read?.state === 'cancelled'
    ? 'It was cancelled at the reader.'
    : 'The reader waits for a card. Present it there.';
}
