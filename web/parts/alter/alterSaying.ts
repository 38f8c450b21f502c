import { createContext, useContext } from 'react';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import { WORDS as ENGLISH } from '../../../core/words/ownPage/en.ts';
import type { AlterWords } from '../../../core/words/ownPage/words.ts';

/** How the change of a subscription is spoken of: to staff in English, to customers in their language. */
export interface AlterSaying {
  readonly words: AlterWords;
  /** Minor units, digits only, with their currency. */
  readonly amount: (minor: string, currency: string) => string;
  /** The same where the currency stands above. */
  readonly figure: (minor: string, currency: string) => string;
  readonly date: (iso: string) => string;
  readonly day: (iso: string) => string;
}

export const AlterSayingContext = createContext<AlterSaying>({
  words: ENGLISH.alter,
  amount: (minor, currency) => sayAmount(BigInt(minor), currency),
  figure: (minor, currency) => sayFigure(BigInt(minor), currency),
  date: sayDate,
  day: sayDayMonthYear,
});
export const useAlterSaying = () => useContext(AlterSayingContext);
