import { sayAmount } from '../../../core/words/amount.ts';
import type { MethodKind } from '../../../server/customers/methodMessages.ts';
import type { OwnPage as OwnPageView, OwnPaid } from '../../../server/customers/ownMessages.ts';

/** What is said where a card or a bank account was taken. */
export function sayGiven(kind: MethodKind, hadOne: boolean): string {
  if (kind === 'bank account') return 'Thank you: we have your bank account.';
  return hadOne ? 'Your card has been changed.' : 'Thank you: we have your card.';
}

/** What the part for cards is called: a first card, another one, or a way to pay now. */
export function titleOfCard({ card, collects }: OwnPageView, owed: string): string {
  if (card === null) return collects === 'automatic' ? 'Waits for your card' : 'Pay with a card';
  if (owed !== '') return 'Or pay with another card';
  return card.expires === null ? 'How you pay' : 'Your card';
}

/** The sum of some debts, one for each currency, or nothing where there is none. */
export function sayDebts(debts: OwnPageView['debts']): string {
  const sums = new Map<string, bigint>();
  for (const { currency, owed } of debts) sums.set(currency, (sums.get(currency) ?? 0n) + BigInt(owed));
  return [...sums].map(([currency, sum]) => sayAmount(sum, currency)).join(' and ');
}

/** What came of it, after what is said of the card. */
export function sayCharged(charged: OwnPaid['charged'], ofCard: string): { good: boolean; text: string } {
  if (charged.some(({ outcome }) => outcome === 'declined' || outcome === 'no usable card')) {
    return { good: false, text: 'The card was declined. Nothing was charged; you can try another card.' };
  }
  if (charged.some(({ outcome }) => outcome === 'waits for the cardholder')) {
    return {
      good: true,
      text: [ofCard, 'Your bank asks you to confirm the payment.'].filter(Boolean).join(' '),
    };
  }
  if (charged.some(({ outcome }) => outcome === 'under way')) {
    return {
      good: true,
      text: 'Your bank has not answered yet. We ask again and write to you; do not pay twice.',
    };
  }
  if (charged.some(({ outcome }) => outcome === 'too many attempts')) {
    return {
      good: false,
      text: 'There have been too many tries this month. Write to us and we sort it out.',
    };
  }
  const paid = charged.some(({ outcome }) => outcome === 'collected')
    ? 'Thank you, it is paid. A receipt is on its way.'
    : '';
  return {
    good: true,
    text: [ofCard, paid].filter(Boolean).join(' '),
  };
}
