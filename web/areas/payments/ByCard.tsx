import { Box, Button, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { MethodView } from '../../../server/customers/methodMessages.ts';
import type { MethodCost } from '../../../server/gateways/methodCosts.ts';
import type { StaffCharge, StaffCharged } from '../../../server/payments/chargeByStaff.ts';
import { post, withQuery } from '../../api/client.ts';
import { giveCard } from '../../api/gateway.ts';
import { useAnswer, useGateways } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { CardFields } from '../../parts/CardFields.tsx';
import { entryOf, faultsOfCard, NO_CARD, type CardFaults } from '../../parts/card.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { ReadOnReader } from '../../parts/ReadOnReader.tsx';

interface Props {
  readonly customerId: string;
  readonly currency: string;
  /** What the invoices come to, in minor units. */
  readonly amount: bigint;
  readonly invoices: readonly string[];
  readonly onDone: () => void;
}

const ANOTHER = 'another';

/** Charges invoices to a card on file, or to one that is told or read now and not kept. */
export function ByCard({ customerId, currency, amount, invoices, onDone }: Props) {
  const { practice, businessDate } = useFrame();
  const { gateway } = useGateways({ customerId });
  const { data: methods = [] } = useAnswer<MethodView[]>(`/api/customers/${customerId}/methods`);
  const { data: costs = [] } = useAnswer<MethodCost[]>(
    amount > 0n ? withQuery('/api/method-costs', { amount: amount.toString(), currency }) : null,
  );
  const usable = methods.filter(({ state, hasExpired }) => state === 'usable' && !hasExpired);
  const [picked, setPicked] = useState<string | null>(null);
  const which = picked ?? usable[0]?.id ?? ANOTHER;
  const [card, setCard] = useState(NO_CARD);
  const [faults, setFaults] = useState<CardFaults>({});
  const [read, setRead] = useState(false);
  const acting = useAct();
  const cost = costs.find(
    ({ method }) =>
      method === (usable.find(({ id }) => id === which)?.kind === 'bank account' ? 'bank debit' : 'card'),
  );
  const charge = async (by: Pick<StaffCharge, 'methodId' | 'token' | 'read'>) => {
    let charged: StaffCharged | null = null;
    const asked: StaffCharge = { invoices: [...invoices], amount: amount.toString(), ...by };
    const done = await acting.act(async () => {
      charged = await post<StaffCharged>(`/api/customers/${customerId}/charges`, asked);
      const failed = (charged as StaffCharged).charged.filter(({ outcome }) => !GOOD.includes(outcome));
      if (failed.length > 0)
        throw new Error(failed.map(({ invoice, outcome }) => `${invoice}: ${outcome}`).join('; '));
    });
    if (done) onDone();
    setRead(false);
  };
  const pay = async () => {
    if (which !== ANOTHER) return charge({ methodId: which });
    const found = faultsOfCard(card, businessDate, gateway);
    setFaults(found);
    const entry = entryOf(card);
    if (Object.keys(found).length > 0 || entry === null) return;
    const token = await giveCard({ customerId }, entry, businessDate).catch(() => null);
    if (token === null) setFaults({ number: 'The gateway did not take this card. Check the digits.' });
    else await charge({ token });
  };
  if (amount <= 0n || invoices.length === 0) return <Text color="muted">Choose an invoice to charge.</Text>;
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void pay();
      }}
    >
      <MarginHeading>{sayAmount(amount, currency)} by card</MarginHeading>
      <RadioGroup.Root
        aria-label="Which card"
        size="sm"
        colorPalette="kelp"
        value={which}
        onValueChange={({ value }) => setPicked(value)}
      >
        {usable.map(({ id, says }) => (
          <RadioGroup.Item key={id} value={id} py="0.5">
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator />
            <RadioGroup.ItemText>{says}, on file</RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
        <RadioGroup.Item value={ANOTHER} py="0.5">
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator />
          <RadioGroup.ItemText>Another, for this payment alone</RadioGroup.ItemText>
        </RadioGroup.Item>
      </RadioGroup.Root>
      {which === ANOTHER && (
        <Box mt="3">
          <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice={practice} />
          <Text color="muted" fontSize="13px" mt="2">
            The number goes straight to the gateway. The card is charged once and not kept.
          </Text>
        </Box>
      )}
      {cost && (
        <Text color="muted" mt="3">
          {cost.gateway} would keep {sayAmount(BigInt(cost.cost), currency)} of it.
        </Text>
      )}
      <Button type="submit" size="sm" colorPalette="kelp" mt="4" mb="2" loading={acting.busy}>
        Charge {sayAmount(amount, currency)}
      </Button>
      {which === ANOTHER && (
        <ReadOnReader
          purpose={{ customerId }}
          hasRead={read}
          onRead={(token) => {
            setRead(true);
            void charge({ token, read: true });
          }}
        />
      )}
      <Outcome of={acting} />
    </form>
  );
}

const GOOD: readonly string[] = [
  'collected',
  'under way',
  'waits for the cardholder',
  'waits for its gateway',
];
