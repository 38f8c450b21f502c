import { sayAmount } from '../../core/words/amount.ts';
import { creditAtHand } from '../customers/credit.ts';
import type { Subscription } from './Subscription.ts';

/** The credit that is left of a subscription, for the letter that says that it has ended; nothing where none is. */
export function sayCreditLeft(subscription: Subscription): { readonly amount?: string } {
  const left = creditAtHand(subscription);
  return left > 0n ? { amount: sayAmount(left, subscription.terms.currency) } : {};
}
