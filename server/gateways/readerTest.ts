import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { RefusedCommand } from '../http/problem.ts';
import { minorDigits } from '../../core/money/currency.ts';
import { findAccount } from './connect.ts';
import { AccountTrouble, type ReaderAsk } from './port.ts';

/** Puts one unit of the home currency on the display of the card reader, to try it. Nothing is booked of it. */
export async function askReader(almanac: Almanac, id: string): Promise<ReaderAsk> {
  const account = await findAccount(id);
  if (!account.facts.abilities.reader) throw new RefusedCommand(409, `${account.name} has no card reader.`);
  const { homeCurrency } = await Business.findOne({ rejectOnEmpty: true });
  const amount = 10n ** BigInt(minorDigits(homeCurrency));
  return almanac.gateways
    .of(account)
    .askReader({ amount, currency: homeCurrency, says: 'A test: nothing is booked' })
    .catch(sayAway);
}

/** How that went so far. */
export async function readReaderAsk(almanac: Almanac, id: string, ask: string): Promise<ReaderAsk> {
  const found = await almanac.gateways
    .of(await findAccount(id))
    .readerAsk(ask)
    .catch(sayAway);
  if (!found) throw new RefusedCommand(404, 'There is no such payment at the reader.');
  return found;
}

/** Says that the gateway is away, and passes on whatever else went wrong. */
export function sayAway(error: unknown): never {
  if (error instanceof AccountTrouble) throw new RefusedCommand(503, 'The gateway does not answer just now.');
  throw error;
}
