import type { Almanac } from '../almanac.ts';
import { usesOfCard } from './cardUse.ts';

/** How a browser reaches the gateway to give it a card; null where none that takes cards is connected. */
export interface PublicGateway {
  readonly url: string;
  readonly publicKey: string;
  /** It has a card reader on the counter, and takes cards that are told by phone or post. */
  readonly reader: boolean;
  readonly phone: boolean;
}

/** Where a card is given, for a rate or for what a customer has. */
export async function publicGateway(
  almanac: Almanac,
  given: Parameters<typeof usesOfCard>[1],
): Promise<PublicGateway | null> {
  const account = await almanac.gateways.forCards(await usesOfCard(almanac, given));
  if (account === null) return null;
  const { reader, phone } = account.facts.abilities;
  return { url: account.address, publicKey: account.publicKey, reader, phone };
}
