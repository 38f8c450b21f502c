import { Box, Flex, Text } from '@chakra-ui/react';
import { practiceCards, type CardEntry, type GatewayAddress } from '../api/gateway.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { useManner } from './manner.ts';
import { Practice } from './Practice.tsx';
import { TextField } from './TextField.tsx';

export interface TypedCard {
  readonly number: string;
  readonly expires: string;
  /** The name on it, where that is asked for. */
  readonly holder: string;
}

export const NO_CARD: TypedCard = { number: '', expires: '', holder: '' };

/** What is wrong with the fields of a card. */
export interface CardFaults {
  readonly number?: string | undefined;
  readonly expires?: string | undefined;
  readonly holder?: string | undefined;
}

/**
 * What is wrong with a typed card on a day (`YYYY-MM-DD`), field by field; nothing where all are good.
 * @param gateway where it is given, which may ask for the name on it
 */
export function faultsOfCard(card: TypedCard, today: string, gateway: GatewayAddress | null): CardFaults {
  const digits = card.number.replace(/[ -]/g, '');
  const faults: { number?: string; expires?: string; holder?: string } = {};
  if (!/^\d{12,19}$/.test(digits)) faults.number = 'Give the card number, 12 to 19 digits.';
  const entry = entryOf(card);
  if (entry === null) faults.expires = 'Give month and year as on the card, such as 08/29.';
  else if (hasExpired(entry, today)) faults.expires = 'This card has expired. Take another.';
  if (gateway?.holder === 'required' && card.holder.trim() === '')
    faults.holder = 'Give the name as it stands on the card.';
  return faults;
}

/** The card as the gateway takes it, or null where it is not complete. */
export function entryOf({ number, expires, holder }: TypedCard): CardEntry | null {
  const match = /^\s*(0?[1-9]|1[0-2])\s*\/\s*(?:20)?(\d{2})\s*$/.exec(expires);
  if (!match) return null;
  return {
    number: number.replace(/[ -]/g, ''),
    expiresMonth: Number(match[1]),
    expiresYear: 2000 + Number(match[2]),
    ...(holder.trim() === '' ? {} : { holder: holder.trim() }),
  };
}

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
