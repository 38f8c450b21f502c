import { money, type Money } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { creditAtHand } from '../customers/credit.ts';
import type { Subscription } from './Subscription.ts';

/** What a customer has of credit when a subscription ends, for the letter that says so; nothing where there is none. */
export async function sayCreditLeft(
  almanac: Almanac,
  { customerId, terms }: Subscription,
  within: Transaction,
): Promise<{ readonly amount?: Money }> {
  const { currency } = terms;
  const left = await creditAtHand(almanac, { customerId, currency }, within);
  return left > 0n ? { amount: money(left, currency) } : {};
}
