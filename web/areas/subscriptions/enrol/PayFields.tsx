import { Box, Button, Flex, Text } from '@chakra-ui/react';
import type { RateView } from '../../../../server/plans/messages.ts';
import type { GatewayAddress } from '../../../api/gateway.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { CardFields, type TypedCard } from '../../../parts/CardFields.tsx';
import { SelectField } from '../../../parts/TextField.tsx';
import type { Paying } from './paying.ts';

const WAITS = {
  end: 'without one it ends with the trial.',
  pause: 'without one it rests after the trial.',
  invoice: 'without one it is paid by invoice after the trial.',
} as const;

interface Props {
  readonly rate: RateView | undefined;
  readonly paying: Paying;
  /** Where a card for this rate is given. */
  readonly gateway: GatewayAddress | null;
  /** The card on file that can be charged, in words. */
  readonly kept: string | null;
  readonly otherCard: boolean;
  readonly card: TypedCard;
  readonly faults: {
    readonly number?: string | undefined;
    readonly expires?: string | undefined;
    readonly pays: string | undefined;
  };
  readonly onPays: (pays: 'card' | 'invoice') => void;
  readonly onOtherCard: (other: boolean) => void;
  readonly onCard: (card: TypedCard) => void;
}

/** What the customer pays with: a card on file, one that is typed, one that can wait, or by invoice. */
export function PayFields(props: Props) {
  const { rate, paying, gateway, kept, otherCard, card, faults, onPays, onOtherCard, onCard } = props;
  const { practice } = useFrame();
  const { by, hasCard, needsCard, trialWaits } = paying;
  return (
    <>
      {rate && rate.options.methods.length > 1 && (
        <Box w="240px">
          <SelectField
            label="Pays"
            value={by}
            error={faults.pays}
            onChange={(event) => onPays(event.target.value === 'invoice' ? 'invoice' : 'card')}
          >
            <option value="card">with a card</option>
            <option value="invoice">by invoice</option>
          </SelectField>
        </Box>
      )}
      {by === 'invoice' && rate && (
        <Text color="muted">Nothing is charged by itself: each invoice is sent with a way to pay it.</Text>
      )}
      {by === 'card' && kept !== null && (
        <Flex gap="3" align="center">
          <Text>
            {otherCard ? 'Another card is taken instead of' : 'Charged to'} {kept}.
          </Text>
          <Button size="xs" variant="outline" onClick={() => onOtherCard(!otherCard)}>
            {otherCard ? 'Keep that card' : 'Take another card'}
          </Button>
        </Flex>
      )}
      {by === 'card' && !hasCard && (
        <>
          {!needsCard && rate && (
            <Text color="muted">
              A card can wait: {trialWaits ? WAITS[trialWaits] : 'each invoice is paid by hand.'}
            </Text>
          )}
          <CardFields card={card} onChange={onCard} faults={faults} gateway={gateway} practice={practice} />
        </>
      )}
    </>
  );
}
