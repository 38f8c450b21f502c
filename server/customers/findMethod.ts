import type { Almanac } from '../almanac.ts';
import { hasExpired, type CardExpiry } from '../../core/dates/cardExpiry.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { faultOfCardAt, usesOfCard } from '../gateways/cardUse.ts';
import { AccountTrouble, type AuthorisedAmount, type CardFacts } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Channel } from '../payments/channel.ts';
import { settingsOf } from '../settings/settings.ts';
import type { MethodKind } from './methodMessages.ts';

/** What a gateway keeps under a token: a card, or a bank account. */
export interface FoundMethod extends CardExpiry {
  readonly kind: MethodKind;
  readonly token: string;
  /** The gateway account that keeps it. */
  readonly accountId: string;
  /** The network of a card; of a bank account what it is. */
  readonly network: string;
  readonly lastFour: string;
  /** Whose it is; empty: that was not asked for. */
  readonly holder: string;
  /** The ISO 8583 code of the answer, where it was asked to authorise zero. */
  readonly checkCode?: string;
}

/** What a method is given for, by whom, and where. */
type Given = Parameters<typeof usesOfCard>[1] & {
  readonly forAll?: boolean;
  readonly channel: Channel;
  /** The gateway account that staff chose. */
  readonly keptAt?: string | undefined;
  /** What is going to be charged to it at once: the bank is asked whether it will be. */
  readonly first?: AuthorisedAmount | undefined;
};

/** The card or the bank account behind a token, by what it was given as; see {@link findCard}, {@link findBankAccount}. */
export function findMethod(
  almanac: Almanac,
  { kind, token }: { readonly kind: MethodKind; readonly token: string },
  pointer: string,
  given: Given,
): Promise<FoundMethod> {
  return kind === 'card'
    ? findCard(almanac, token, pointer, given)
    : findBankAccount(almanac, token, pointer, given);
}

/**
 * The card behind a token that a browser got from the gateway, checked by authorising zero, or a refusal that says what to
 * do. A card `forAll` must be kept where it can be charged for all that it is given for; otherwise for as much of it as
 * can be.
 */
export async function findCard(
  almanac: Almanac,
  token: string,
  pointer: string,
  given: Given,
): Promise<FoundMethod> {
  const uses = await usesOfCard(almanac, given);
  const byCard = uses.filter(({ methods }) => methods.includes('card'));
  // What a card is given for alone must all be paid so; of everything that a customer has, something.
  if (given.forAll ? byCard.length < uses.length : uses.length > 0 && byCard.length === 0)
    throw new RefusedCommand(
      422,
      'Not everything that this would be charged for is paid by card: take a bank account, or let the rates accept cards.',
      pointer,
    );
  const { account, gateway } = await almanac.gateways.requireFor('card', uses, given.keptAt);
  const fault = given.forAll ? faultOfCardAt(account, uses) : null;
  if (fault !== null) throw new RefusedCommand(422, fault, pointer);
  if (given.channel === 'staff' && !account.facts.abilities.phone)
    throw new RefusedCommand(
      422,
      `${account.name} takes no cards that are told by phone or post. Ask the customer for the card by mail or a link, or read it.`,
      pointer,
    );
  return asking(async () => {
    const card = await gateway.card(token);
    if (card) {
      const on = await businessDateOf(almanac);
      requireGoodOn(card, on, pointer);
      const checkCode = await gateway.check(token, on, given.first);
      if (checkCode !== null) {
        requireGoodAnswer(checkCode, pointer, given.first !== undefined);
        const { cardholder } = await settingsOf(almanac, 'customers');
        if (cardholder === 'required' && card.holder === '' && given.channel !== 'reader')
          throw new RefusedCommand(422, 'Give the name as it stands on the card.', `${pointer}/holder`);
        return { kind: 'card', ...card, accountId: account.id, checkCode };
      }
    }
    throw new RefusedCommand(422, 'The gateway does not know this card. Enter it again.', pointer);
  });
}

/**
 * The bank account behind a token that a browser got from the gateway, or a refusal that says what to do. Whether its bank lets
 * it be debited is told by the first debit alone.
 */
export async function findBankAccount(
  almanac: Almanac,
  token: string,
  pointer: string,
  given: Given,
): Promise<FoundMethod> {
  const uses = await usesOfCard(almanac, given);
  if (!uses.every(({ methods }) => methods.includes('bank debit')))
    throw new RefusedCommand(
      422,
      'Not everything that this would be charged for is paid by bank debit: take a card, or let the rates accept bank debits.',
      pointer,
    );
  const { account, gateway } = await almanac.gateways.requireFor('bank debit', uses, given.keptAt);
  const fault = faultOfCardAt(account, uses);
  if (fault !== null) throw new RefusedCommand(422, fault, pointer);
  return asking(async () => {
    const found = await gateway.bankAccount(token);
    if (!found)
      throw new RefusedCommand(422, 'The gateway does not know this bank account. Enter it again.', pointer);
    return {
      ...{ kind: 'bank account', ...found, accountId: account.id, network: 'Bank account' },
      ...{ expiresYear: null, expiresMonth: null },
    };
  });
}

/** Asks a gateway; one that cannot be asked is said so, and nothing was stored. */
async function asking<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask();
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was stored; try again in a minute.',
    );
  }
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

/** A bank that was asked about a card, and refused it. */
export class DeclinedCard extends RefusedCommand {}

/**
 * Refuses a card that will never be charged as it is. A bank that is away, or limits that pass, refuse nothing here, unless it
 * was asked for an amount that is due at once.
 */
function requireGoodAnswer(code: string, pointer: string, isDueAtOnce: boolean): void {
  const meaning = meaningOf(code);
  if (code === '00' || (!isDueAtOnce && (meaning.class === 'wait' || meaning.class === 'soon'))) return;
  throw new DeclinedCard(
    422,
    `The bank refused this card when it was asked about it: ${meaning.says}. Nothing was kept; take another.`,
    pointer,
  );
}
