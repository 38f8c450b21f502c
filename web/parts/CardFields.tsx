import { Box, Flex, Text } from '@chakra-ui/react';
import { practiceCards, type GatewayAddress } from '../api/gateway.ts';
import { entryOf, type CardFaults, type TypedCard } from './card.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { useManner } from './manner.ts';
import { Practice } from './Practice.tsx';
import { TextField } from './TextField.tsx';

interface Props {
  readonly card: TypedCard;
  readonly onChange: (card: TypedCard) => void;
  readonly faults: CardFaults;
  readonly gateway: GatewayAddress | null;
  /** Offers the practice cards, which the stand-in knows. */
  readonly practice: boolean;
}

/** The fields of a card. What is typed here goes to the gateway alone, and is not kept. */
export function CardFields({ card, onChange, faults, gateway, practice }: Props) {
  const { today } = useManner();
  const entry = entryOf(card);
  const expired =
    entry !== null && hasExpired(entry, today) ? 'This card has expired. Take another.' : undefined;
  return (
    <Box>
      <Flex gap="3" align="flex-start">
        <TextField
          label="Card number"
          field="number"
          inputMode="numeric"
          autoComplete="off"
          maxLength={40}
          value={card.number}
          error={faults.number}
          onChange={(event) => onChange({ ...card, number: event.target.value })}
        />
        <Box w="120px" flexShrink={0}>
          <TextField
            label="Expires"
            field="expires"
            placeholder="MM/YY"
            autoComplete="off"
            maxLength={20}
            value={card.expires}
            error={faults.expires ?? expired}
            onChange={(event) => onChange({ ...card, expires: event.target.value })}
          />
        </Box>
      </Flex>
      {gateway?.holder !== undefined && gateway.holder !== 'no' && (
        <Box mt="3">
          <TextField
            label="Name on the card"
            field="holder"
            autoComplete="off"
            required={gateway.holder === 'required'}
            maxLength={200}
            value={card.holder}
            error={faults.holder}
            onChange={(event) => onChange({ ...card, holder: event.target.value })}
          />
        </Box>
      )}
      <Text color="muted" mt="2" fontSize="13px">
        The number goes straight to the gateway. We keep its last four digits and the expiry.
      </Text>
      {practice && (
        <Practice
          label="Practice cards"
          of={['practice cards', gateway?.url]}
          read={() => practiceCards(gateway)}
          onTake={(number) => onChange({ ...card, number, expires: '12/30' })}
        />
      )}
    </Box>
  );
}
