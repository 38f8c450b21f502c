import type { Almanac } from '../almanac.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { faultOfCardAt, usesOfCard } from '../gateways/cardUse.ts';
import { AccountTrouble, type CardFacts } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Channel } from '../payments/channel.ts';

export type FoundCard = CardFacts & { readonly accountId: string };

/** A card that the gateway was asked to authorise zero with: the ISO 8583 code of its answer. */
export type CheckedCard = FoundCard & { readonly checkCode: string };

/**
 * The card behind a token that a browser got from the gateway, checked by authorising zero, or a refusal that says what to
 * do. A card `forAll` must be kept where it can be charged for all that it is given for; otherwise for as much of it as
 * can be.
 */
export async function findCard(
  almanac: Almanac,
  token: string,
  pointer: string,
  given: Parameters<typeof usesOfCard>[1] & { readonly forAll?: boolean; readonly channel: Channel },
): Promise<CheckedCard> {
  const uses = await usesOfCard(almanac, given);
  const { account, gateway } = await almanac.gateways.requireForCards(uses);
  const fault = given.forAll ? faultOfCardAt(account, uses) : null;
  if (fault !== null) throw new RefusedCommand(422, fault, pointer);
  if (given.channel === 'staff' && !account.facts.abilities.phone)
    throw new RefusedCommand(
      422,
      `${account.name} takes no cards that are told by phone or post. Ask the customer for the card by mail or a link, or read it.`,
      pointer,
    );
  try {
    const card = await gateway.card(token);
    if (card) {
      const on = await businessDateOf(almanac);
      requireGoodOn(card, on, pointer);
      const checkCode = await gateway.check(token, on);
      if (checkCode !== null) {
        requireGoodAnswer(checkCode, pointer);
        return { ...card, accountId: account.id, checkCode };
      }
    }
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was stored; try again in a minute.',
    );
  }
  throw new RefusedCommand(422, 'The gateway does not know this card. Enter it again.', pointer);
}

/** Refuses a card that is over on the business day: whatever a gateway says of it, it would be declined. */
function requireGoodOn(card: CardFacts, on: string, pointer: string): void {
  if (!hasExpired(card, on)) return;
  const { expiresMonth, expiresYear } = card;
  const printed = `${String(expiresMonth).padStart(2, '0')}/${String(expiresYear % 100).padStart(2, '0')}`;
  throw new RefusedCommand(
    422,
    `This card expired: ${printed} has passed. Take another.`,
    `${pointer}/expires`,
  );
}

/** Refuses a card that will never be charged as it is. A bank that is away, or limits that pass, refuse nothing here. */
function requireGoodAnswer(code: string, pointer: string): void {
  const meaning = meaningOf(code);
  if (code === '00' || meaning.class === 'wait' || meaning.class === 'soon') return;
  throw new RefusedCommand(
    422,
    `The bank refused this card when it was asked about it: ${meaning.says}. Nothing was kept; take another.`,
    pointer,
  );
}
