import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { usesOfCard } from './cardUse.ts';
import { findAccount } from './connect.ts';
import { sayAway } from './readerTest.ts';
import type { ReaderRead } from './port.ts';

/** A card that the reader on the counter is to read, and where that reader stands. */
export interface CardRead extends ReaderRead {
  readonly accountId: string;
  readonly page: string;
}

/** Asks the reader to read a card that is to be kept, for a rate or for what a customer has. Nothing is charged. */
export async function askToRead(
  almanac: Almanac,
  given: Parameters<typeof usesOfCard>[1],
): Promise<CardRead> {
  const account = await almanac.gateways.forCards(await usesOfCard(almanac, given));
  if (!account?.facts.abilities.reader)
    throw new RefusedCommand(409, 'There is no card reader at the gateway that keeps the cards for this.');
  const read = await almanac.gateways
    .of(account)
    .readCard('To be kept: nothing is charged now')
    .catch(sayAway);
  const page = new URL(`/reader/${encodeURIComponent(account.account)}`, account.address).href;
  return { ...read, accountId: account.id, page };
}

/** How far that is. */
export async function readAsked(almanac: Almanac, accountId: string, id: string): Promise<ReaderRead> {
  const found = await almanac.gateways
    .of(await findAccount(accountId))
    .cardRead(id)
    .catch(sayAway);
  if (!found) throw new RefusedCommand(404, 'The reader was not asked for this.');
  return found;
}
