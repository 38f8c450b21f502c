import type { Transaction } from 'sequelize';
import type { Database } from '../db/database.ts';
import type { GatewayAccount } from './GatewayAccount.ts';

/** How an account takes what it is charged with, and how rates name it. */
export type Taken = 'card' | 'bank debit' | 'online transfer';

/** What a method is to be charged for: sums of a currency, at one of these accounts; none named: at any. */
export interface CardUse {
  readonly currency: string;
  readonly gateways: readonly string[];
  /** The ways of payment that the rate accepts. */
  readonly methods: readonly string[];
}

/** Whether an account may keep a card for a use, and charges its currency. */
export function serves(
  account: GatewayAccount,
  { currency, gateways }: Pick<CardUse, 'currency' | 'gateways'>,
): boolean {
  const isNamed = gateways.length === 0 || gateways.includes(account.id);
  return isNamed && account.facts.abilities.currencies.includes(currency);
}

/** Why an account cannot keep a card for all of its uses, in a sentence for who enrols; null where it can. */
export function faultOfCardAt(
  account: GatewayAccount,
  [first, ...others]: readonly CardUse[],
): string | null {
  if (first && !serves(account, first))
    return first.gateways.length > 0
      ? `No gateway that this rate takes cards of is connected and charges ${first.currency}.`
      : `No gateway that is connected charges ${first.currency}.`;
  if (others.every((use) => serves(account, use))) return null;
  return 'The same card is charged for what this customer has already, and no one gateway takes it for both. Let the rates take the same gateways.';
}

/**
 * What a card will be charged for: first the rate that it is given for, if any, then everything of the customer's that
 * runs and is charged by itself, since a customer has one card for all of it.
 */
export function usesOfCard(
  almanac: { readonly db: Database },
  given: { readonly rateId?: string | undefined; readonly customerId?: string | undefined },
  within?: Transaction,
): Promise<CardUse[]> {
  return almanac.db.rows<CardUse>(
    `select r.terms ->> 'currency' as currency, coalesce(r.options -> 'gateways', '[]') as gateways,
       coalesce(r.options -> 'methods', '["card"]') as methods
     from rates r left join subscriptions s
       on s.rate_id = r.id and s.customer_id = $customerId and s.collects = 'automatic' and s.state not in ('lapsed', 'ended')
     where r.id = $rateId or s.id is not null
     order by r.id is distinct from $rateId, s.id`,
    { rateId: given.rateId ?? null, customerId: given.customerId ?? null },
    within,
  );
}
