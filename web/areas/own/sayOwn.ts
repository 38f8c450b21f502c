import type { OwnSaying } from './ownSaying.ts';
import type { MethodKind } from '../../../server/customers/methodMessages.ts';
import type { OwnWords } from '../../../core/words/ownPage/words.ts';
import type { OwnPage as OwnPageView, OwnPaid } from '../../../server/customers/ownMessages.ts';

/** What is said where a card or a bank account was taken. */
export function sayGiven(kind: MethodKind, hadOne: boolean, words: OwnWords): string {
  if (kind === 'bank account') return words.bankGiven;
  return hadOne ? words.cardChanged : words.cardGiven;
}

/** What the part for cards is called: a first card, another one, or a way to pay now. */
export function titleOfCard({ card, collects }: OwnPageView, owed: string, words: OwnWords): string {
  if (card === null) return collects === 'automatic' ? words.waitsForCard : words.payWithCard;
  if (owed !== '') return words.orAnotherCard;
  return card.expires === null ? words.howYouPay : words.yourCard;
}

/** The sum of some debts, one for each currency, or nothing where there is none. */
export function sayDebts(debts: OwnPageView['debts'], { amount, words }: OwnSaying): string {
  const sums = new Map<string, bigint>();
  for (const { currency, owed } of debts) sums.set(currency, (sums.get(currency) ?? 0n) + BigInt(owed));
  return [...sums].map(([currency, sum]) => amount(sum.toString(), currency)).join(` ${words.and} `);
}

/** What came of it, after what is said of the card. */
export function sayCharged(
  charged: OwnPaid['charged'],
  ofCard: string,
  words: OwnWords,
): { good: boolean; text: string } {
  if (charged.some(({ outcome }) => outcome === 'declined' || outcome === 'no usable card')) {
    return { good: false, text: words.declined };
  }
  if (charged.some(({ outcome }) => outcome === 'waits for the cardholder')) {
    return {
      good: true,
      text: [ofCard, words.toConfirm].filter(Boolean).join(' '),
    };
  }
  if (charged.some(({ outcome }) => outcome === 'under way')) {
    return {
      good: true,
      text: words.underWay,
    };
  }
  if (charged.some(({ outcome }) => outcome === 'too many attempts')) {
    return {
      good: false,
      text: words.tooMany,
    };
  }
  const paid = charged.some(({ outcome }) => outcome === 'collected') ? words.paidNow : '';
  return {
    good: true,
    text: [ofCard, paid].filter(Boolean).join(' '),
  };
}
