import { createContext, useContext } from 'react';
import { amountIn, dateIn, dayIn, figureIn, type LetterManner } from '../../../core/letters/customs.ts';
import type { OwnWords } from '../../../core/words/ownPage/words.ts';
import { ownWords } from '../../../core/words/ownPage/wordsOf.ts';

/** How a customer's page speaks: its words, and how it writes amounts and days. */
export interface OwnSaying {
  readonly words: OwnWords;
  /** Minor units, digits only, with their currency. */
  readonly amount: (minor: string, currency: string) => string;
  /** The same where the currency stands above. */
  readonly figure: (minor: string, currency: string) => string;
  /** `YYYY-MM-DD`, with its weekday. */
  readonly date: (iso: string) => string;
  /** The same without it. */
  readonly day: (iso: string) => string;
  /** A card or bank account with its expiry, which only cards have. */
  readonly withExpiry: (of: { readonly says: string; readonly expires: string | null }) => string;
}

/** Speaks in the language of a customer, by the customs of their country. */
export function ownSayingIn(manner: LetterManner): OwnSaying {
  const words = ownWords(manner.language);
  return {
    words,
    amount: (minor, currency) => amountIn(BigInt(minor), currency, manner),
    figure: (minor, currency) => figureIn(BigInt(minor), currency, manner),
    date: (iso) => dateIn(iso, manner),
    day: (iso) => dayIn(iso, manner),
    withExpiry: ({ says, expires }) => (expires === null ? says : words.expires(says, expires)),
  };
}

export const OwnSayingContext = createContext<OwnSaying>(ownSayingIn({ language: 'en', locale: 'en-GB' }));
export const useOwnSaying = () => useContext(OwnSayingContext);
