import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';
import { serves, usesOfCard, type CardUse, type Taken } from './cardUse.ts';
import type { GatewayAccount } from './GatewayAccount.ts';

/** How a browser reaches a gateway account to give it a card or a bank account. */
export interface PublicGateway {
  readonly id: string;
  readonly name: string;
  readonly url: string;
  readonly publicKey: string;
  /** It has a card reader on the counter, and takes cards that are told by phone or post. */
  readonly reader: boolean;
  readonly phone: boolean;
  /** Whether the name on the card is asked for. */
  readonly holder: 'no' | 'optional' | 'required';
}

/** Where a method is given. */
export interface PublicGateways {
  /** Null where none that takes cards is connected. */
  readonly gateway: PublicGateway | null;
  /** Cards are taken: something that is charged is paid so, or there is nothing yet. */
  readonly takesCards: boolean;
  /** Others that could keep the card as well: staff may choose. */
  readonly others: readonly PublicGateway[];
  /** Where bank accounts are given; null where there is none, or something that is charged is not paid so. */
  readonly bank: PublicGateway | null;
}

/** Where a card or a bank account is given, for a rate or for what a customer has. */
export async function publicGateways(
  almanac: Almanac,
  given: Parameters<typeof usesOfCard>[1],
): Promise<PublicGateways> {
  const uses = await usesOfCard(almanac, given);
  const { cardholder } = await settingsOf(almanac, 'customers');
  const view = ({ id, name, address, publicKey, facts }: GatewayAccount): PublicGateway => {
    const { reader, phone } = facts.abilities;
    return { id, name, url: address, publicKey, reader, phone, holder: cardholder };
  };
  const [gateway = null, ...others] = await almanac.gateways.takers('card', uses);
  const bank = uses.length > 0 ? await bankFor(almanac, uses) : null;
  return {
    gateway: gateway && view(gateway),
    takesCards: uses.length === 0 || uses.some(({ methods }) => methods.includes('card')),
    others: others.filter((one) => uses.length > 0 && uses.every((use) => serves(one, use))).map(view),
    bank: bank && view(bank),
  };
}

/** The account that debits a bank account for all of some uses; null where there is none, or one of them is not paid so. */
async function bankFor(almanac: Almanac, uses: readonly CardUse[]): Promise<GatewayAccount | null> {
  const taken: Taken = 'bank debit';
  if (!uses.every(({ methods }) => methods.includes(taken))) return null;
  const [best] = await almanac.gateways.takers(taken, uses);
  return best && uses.every((use) => serves(best, use)) ? best : null;
}
