import { WORDS as ENGLISH } from '../../core/words/ownPage/en.ts';
import type { OwnWords } from '../../core/words/ownPage/words.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import type { CardEntry, GatewayAddress } from '../api/gateway.ts';

/** A card as it is being typed. */
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
export function faultsOfCard(
  card: TypedCard,
  today: string,
  gateway: GatewayAddress | null,
  words: OwnWords['card'] = ENGLISH.card,
): CardFaults {
  const digits = card.number.replace(/[ -]/g, '');
  const faults: { number?: string; expires?: string; holder?: string } = {};
  if (!/^\d{12,19}$/.test(digits)) faults.number = words.badNumber;
  const entry = entryOf(card);
  if (entry === null) faults.expires = words.badExpires;
  else if (hasExpired(entry, today)) faults.expires = words.expired;
  if (gateway?.holder === 'required' && card.holder.trim() === '') faults.holder = words.noHolder;
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
