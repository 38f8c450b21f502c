import type { Almanac } from '../almanac.ts';
import { faultOfCardAt, usesOfCard } from '../gateways/cardUse.ts';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { AccountTrouble, type CardFacts } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';

export type FoundCard = CardFacts & { readonly accountId: string };

/**
 * The card behind a token that a browser got from the gateway, or a refusal that says what to do. A card `forAll` must
 * be kept where it can be charged for all that it is given for; otherwise for as much of it as can be.
 */
export async function findCard(
  almanac: Almanac,
  token: string,
  pointer: string,
  given: Parameters<typeof usesOfCard>[1] & { readonly forAll?: boolean },
): Promise<FoundCard> {
  const uses = await usesOfCard(almanac, given);
  const { account, gateway } = await almanac.gateways.requireForCards(uses);
  const fault = given.forAll ? faultOfCardAt(account, uses) : null;
  if (fault !== null) throw new RefusedCommand(422, fault, pointer);
  try {
    const card = await gateway.card(token);
    if (card) {
      await requireGoodOn(almanac, card, pointer);
      return { ...card, accountId: account.id };
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
async function requireGoodOn(almanac: Almanac, card: CardFacts, pointer: string): Promise<void> {
  if (!hasExpired(card, await businessDateOf(almanac))) return;
  const { expiresMonth, expiresYear } = card;
  const printed = `${String(expiresMonth).padStart(2, '0')}/${String(expiresYear % 100).padStart(2, '0')}`;
  throw new RefusedCommand(
    422,
    `This card expired: ${printed} has passed. Take another.`,
    `${pointer}/expires`,
  );
}
