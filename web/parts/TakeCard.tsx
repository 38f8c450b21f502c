import { Box, Button, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { MethodView } from '../../server/customers/methodMessages.ts';
import type { MethodTaken } from '../../server/recovery/newMethod.ts';
import type { Debt } from '../../server/recovery/messages.ts';
import { post, Problem } from '../api/client.ts';
import { giveCard } from '../api/gateway.ts';
import { useAnswer, useCardGateway } from '../api/hooks.ts';
import { MarginHeading } from '../frame/PageAndMargin.tsx';
import { useFrame } from '../frame/useFrame.ts';
import { CardFields, entryOf, faultsOfCard, NO_CARD } from './CardFields.tsx';
import { ReadOnReader } from './ReadOnReader.tsx';

interface Props {
  readonly customerId: string;
}

type Role = 'primary' | 'fallback';

/** Takes a card from a customer on the phone or at the counter, and says first what will be charged to it at once. */
export function TakeCard({ customerId }: Props) {
  const { data: debts = [] } = useAnswer<Debt[]>(`/api/customers/${customerId}/debts`);
  const { data: methods = [] } = useAnswer<MethodView[]>(`/api/customers/${customerId}/methods`);
  const { practice, businessDate } = useFrame();
  const gateway = useCardGateway({ customerId });
  const { mutate } = useSWRConfig();
  const [card, setCard] = useState(NO_CARD);
  const [role, setRole] = useState<Role>('primary');
  const [read, setRead] = useState<string | null>(null);
  const [faults, setFaults] = useState<{ number?: string; expires?: string }>({});
  const [busy, setBusy] = useState(false);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const inUse = (of: Role) => methods.find((one) => one.role === of && one.state !== 'replaced');
  const primary = inUse('primary');
  const fallback = inUse('fallback');

  const take = async (token: () => Promise<string>, isRead: boolean) => {
    setBusy(true);
    setSays(null);
    try {
      const body = { token: await token(), role: primary ? role : 'primary', read: isRead };
      const taken = await post<MethodTaken>(`/api/customers/${customerId}/card`, body);
      setCard(NO_CARD);
      setRead(null);
      setSays({
        good: taken.charged.every(({ outcome }) => outcome === 'collected'),
        text: sayTaken(taken, body.role),
      });
      await mutate(() => true);
    } catch (error) {
      setRead(null);
      const problem = error instanceof Problem ? error : null;
      const number = problem?.at('/card/number') ?? (isRead ? undefined : problem?.at('/token'));
      const expires = problem?.at('/card/expires') ?? problem?.at('/token/expires');
      if (number || expires) setFaults({ ...(number ? { number } : {}), ...(expires ? { expires } : {}) });
      else setSays({ good: false, text: problem?.message ?? 'The card was not taken.' });
    } finally {
      setBusy(false);
    }
  };
  const takeTyped = () => {
    const found = faultsOfCard(card, businessDate);
    setFaults(found);
    const entry = entryOf(card);
    if (Object.keys(found).length > 0 || entry === null) return;
    void take(() => giveCard({ customerId }, entry, businessDate), false);
  };
  const takeRead = (token: string) => {
    setRead(token);
    void take(() => Promise.resolve(token), true);
  };

  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        takeTyped();
      }}
    >
      <MarginHeading>{primary ? 'Take another card' : 'Take a card'}</MarginHeading>
      <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice={practice} />
      {primary && (
        <RadioGroup.Root
          aria-label="What the card is to be"
          size="sm"
          mt="3"
          colorPalette="kelp"
          value={role}
          onValueChange={({ value }) => value !== null && setRole(value as Role)}
        >
          {ROLES.map(({ value, says: what }) => (
            <RadioGroup.Item key={value} value={value} alignItems="flex-start" py="0.5">
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator mt="1" />
              <RadioGroup.ItemText>{what(primary.says, fallback?.says)}</RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
      )}
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
      <Button type="submit" mt="4" mb="2" size="sm" colorPalette="kelp" loading={busy}>
        {debts.length > 0 ? 'Take the card and charge it' : 'Take the card'}
      </Button>
      <ReadOnReader purpose={{ customerId }} hasRead={read !== null} onRead={takeRead} />
      <Text role="status" mt="2" color={says?.good ? 'collected' : 'declined'}>
        {says?.text ?? ''}
      </Text>
    </form>
  );
}

const ROLES: readonly {
  readonly value: Role;
  readonly says: (primary: string, fallback: string | undefined) => string;
}[] = [
  { value: 'primary', says: (primary) => `In place of ${primary}` },
  {
    value: 'fallback',
    says: (_, fallback) =>
      fallback
        ? `As the fallback, in place of ${fallback}`
        : 'As a fallback, tried when the first is declined',
  },
];

function sayTaken({ card, charged }: MethodTaken, role: Role): string {
  const outcomes = charged.map(({ invoice, outcome }) => `invoice ${invoice}: ${outcome}`).join('; ');
  const kept = role === 'fallback' ? `Kept as the fallback: ${card}.` : `From now on: ${card}.`;
  return `${kept}${outcomes ? ` ${outcomes}.` : ''}`;
}
