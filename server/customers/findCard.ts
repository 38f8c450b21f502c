import type { Almanac } from '../almanac.ts';
import { usesOfCard } from '../gateways/cardUse.ts';
import { GatewayAway, KeyRefused, type CardFacts } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';

export type FoundCard = CardFacts & { readonly accountId: string };

/** The card behind a token that a browser got from the gateway, or a refusal that says what to do. */
export async function findCard(
  almanac: Almanac,
  token: string,
  pointer: string,
  given: Parameters<typeof usesOfCard>[1],
): Promise<FoundCard> {
  const { account, gateway } = await almanac.gateways.requireForCards(await usesOfCard(almanac, given));
  try {
    const card = await gateway.card(token);
    if (card) return { ...card, accountId: account.id };
  } catch (error) {
    if (!(error instanceof GatewayAway) && !(error instanceof KeyRefused)) throw error;
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was stored; try again in a minute.',
    );
  }
  throw new RefusedCommand(422, 'The gateway does not know this card. Enter it again.', pointer);
}
