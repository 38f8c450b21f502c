import { Box, Flex, Text } from '@chakra-ui/react';
import { practiceCards, type GatewayAddress } from '../api/gateway.ts';
import { entryOf, type CardFaults, type TypedCard } from './card.ts';
import { WORDS as ENGLISH } from '../../core/words/ownPage/en.ts';
import type { OwnWords } from '../../core/words/ownPage/words.ts';
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
  /** In the language of whoever gives it; English for staff. */
  readonly words?: OwnWords['card'];
}

/** The fields of a card. What is typed here goes to the gateway alone, and is not kept. */
export function CardFields({ card, onChange, faults, gateway, practice, words = ENGLISH.card }: Props) {
  const { today } = useManner();
  const entry = entryOf(card);
  const expired = entry !== null && hasExpired(entry, today) ? words.expired : undefined;
  return (
    <Box>
      <Flex gap="3" align="flex-start">
        <TextField
          label={words.number}
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
            label={words.expires}
            field="expires"
            placeholder={words.expiresAs}
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
            label={words.holder}
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
        {words.note}
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
