import type { Almanac } from '../almanac.ts';

/** How a browser reaches the gateway to give it a card; null where none that takes cards is connected. */
export interface PublicGateway {
  readonly url: string;
  readonly publicKey: string;
}

/** Where cards are given now. */
export async function publicGateway(almanac: Almanac): Promise<PublicGateway | null> {
  const account = await almanac.gateways.forCards();
  return account && { url: account.address, publicKey: account.publicKey };
}
