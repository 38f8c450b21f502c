import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import useSWR from 'swr';
import { practiceCards, type CardEntry, type GatewayAddress } from '../api/gateway.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { useManner } from './manner.ts';
import { TextField } from './TextField.tsx';

export interface TypedCard {
  readonly number: string;
  readonly expires: string;
}

export const NO_CARD: TypedCard = { number: '', expires: '' };

/** What is wrong with a typed card on a day (`YYYY-MM-DD`), field by field; nothing where both are good. */
export function faultsOfCard(card: TypedCard, today: string): { number?: string; expires?: string } {
  const digits = card.number.replace(/[ -]/g, '');
  const faults: { number?: string; expires?: string } = {};
  if (!/^\d{12,19}$/.test(digits)) faults.number = 'Give the card number, 12 to 19 digits.';
  const entry = entryOf(card);
  if (entry === null) faults.expires = 'Give month and year as on the card, such as 08/29.';
  else if (hasExpired(entry, today)) faults.expires = 'This card has expired. Take another.';
  return faults;
}

/** The card as the gateway takes it, or null where it is not complete. */
export function entryOf({ number, expires }: TypedCard): CardEntry | null {
  const match = /^\s*(0?[1-9]|1[0-2])\s*\/\s*(?:20)?(\d{2})\s*$/.exec(expires);
  if (!match) return null;
  return {
    number: number.replace(/[ -]/g, ''),
    expiresMonth: Number(match[1]),
    expiresYear: 2000 + Number(match[2]),
  };
}

interface Props {
  readonly card: TypedCard;
  readonly onChange: (card: TypedCard) => void;
  readonly faults: { number?: string | undefined; expires?: string | undefined };
  readonly gateway: GatewayAddress | null;
  /** Offers the practice cards, which the stand-in knows. */
  readonly practice: boolean;
}

/** The fields of a card. What is typed here goes to the gateway alone, and is not kept. */
export function CardFields({ card, onChange, faults, gateway, practice }: Props) {
  const [showing, setShowing] = useState(false);
  const { today } = useManner();
  const entry = entryOf(card);
  const expired =
    entry !== null && hasExpired(entry, today) ? 'This card has expired. Take another.' : undefined;
  const { data: cards } = useSWR(showing ? ['practice cards', gateway?.url] : null, () =>
    practiceCards(gateway),
  );
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
      <Text color="muted" mt="2" fontSize="13px">
        The number goes straight to the gateway. We keep its last four digits and the expiry.
      </Text>
      {practice && (
        <Box mt="2">
          <Button size="xs" variant="outline" aria-expanded={showing} onClick={() => setShowing(!showing)}>
            Practice cards
          </Button>
          {showing && (
            <Box as="ul" listStyleType="none" mt="2" borderTopWidth="1px" borderColor="lines">
              {(cards ?? []).map((one) => (
                <Box as="li" key={one.number} borderBottomWidth="1px" borderColor="lines">
                  <Button
                    variant="plain"
                    size="xs"
                    w="full"
                    justifyContent="flex-start"
                    px="0"
                    fontWeight="400"
                    onClick={() => onChange({ number: one.number, expires: '12/30' })}
                  >
                    <Box as="span" fontVariantNumeric="tabular-nums">
                      {one.number}
                    </Box>
                    <Box as="span" color="muted" truncate>
                      {one.description}
                    </Box>
                  </Button>
                </Box>
              ))}
            </Box>
          )}
        </Box>
      )}
    </Box>
  );
}
