import { Box, Button, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { MethodTaken } from '../../server/recovery/newMethod.ts';
import type { Debt } from '../../server/recovery/messages.ts';
import { post, Problem } from '../api/client.ts';
import { giveCard } from '../api/gateway.ts';
import { useAnswer, useCardGateway } from '../api/hooks.ts';
import { MarginHeading } from '../frame/PageAndMargin.tsx';
import { useFrame } from '../frame/useFrame.ts';
import { CardFields, entryOf, faultsOfCard, NO_CARD } from './CardFields.tsx';

interface Props {
  readonly customerId: string;
}

/** Takes another card from a customer on the phone, and says first what will be charged to it at once. */
export function ReplaceCard({ customerId }: Props) {
  const { data: debts = [] } = useAnswer<Debt[]>(`/api/customers/${customerId}/debts`);
  const { practice, businessDate } = useFrame();
  const gateway = useCardGateway({ customerId });
  const { mutate } = useSWRConfig();
  const [card, setCard] = useState(NO_CARD);
  const [faults, setFaults] = useState<{ number?: string; expires?: string }>({});
  const [busy, setBusy] = useState(false);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);

  const replace = async () => {
    const found = faultsOfCard(card, businessDate);
    setFaults(found);
    const entry = entryOf(card);
    if (Object.keys(found).length > 0 || entry === null) return;
    setBusy(true);
    setSays(null);
    try {
      const token = await giveCard({ customerId }, entry, businessDate);
      const taken = await post<MethodTaken>(`/api/customers/${customerId}/card`, { token });
      setCard(NO_CARD);
      setSays({ good: taken.charged.every(({ outcome }) => outcome === 'collected'), text: sayTaken(taken) });
      await mutate(() => true);
    } catch (error) {
      const problem = error instanceof Problem ? error : null;
      const number = problem?.at('/card/number');
      const expires = problem?.at('/card/expires') ?? problem?.at('/token/expires');
      if (number || expires) setFaults({ ...(number ? { number } : {}), ...(expires ? { expires } : {}) });
      else setSays({ good: false, text: problem?.message ?? 'The card was not changed.' });
    } finally {
      setBusy(false);
    }
  };

  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void replace();
      }}
    >
      <MarginHeading>Take another card</MarginHeading>
      <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice={practice} />
      {debts.length > 0 && (
        <Box mt="4">
          <Text fontWeight="600">Charged to it at once:</Text>
          {debts.map((debt) => (
            <Box key={debt.number} display="flex" justifyContent="space-between">
              <span>
                Invoice {debt.number}, due {sayDate(debt.dueOn)}
              </span>
              <span>{sayAmount(BigInt(debt.owed), debt.currency)}</span>
            </Box>
          ))}
        </Box>
      )}
      <Button type="submit" mt="4" size="sm" colorPalette="kelp" loading={busy}>
        {debts.length > 0 ? 'Take the card and charge it' : 'Take the card'}
      </Button>
      <Text role="status" mt="2" color={says?.good ? 'collected' : 'declined'}>
        {says?.text ?? ''}
      </Text>
    </form>
  );
}

function sayTaken({ card, charged }: MethodTaken): string {
  const outcomes = charged.map(({ invoice, outcome }) => `invoice ${invoice}: ${outcome}`).join('; ');
  return `From now on: ${card}.${outcomes ? ` ${outcomes}.` : ''}`;
}
