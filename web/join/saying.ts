import { createContext, useContext } from 'react';
import { minorDigits } from '../../core/money/currency.ts';
import { WORDS } from '../../core/words/signUp/en.ts';
import type { SignUpWords } from '../../core/words/signUp/words.ts';

/** How a page speaks: its words, and how it writes dates, amounts and countries. */
export interface Saying {
  readonly words: SignUpWords;
  readonly locale: string;
  /** Minor units, digits only, with their currency. */
  readonly amount: (minor: string, currency: string) => string;
  /** `YYYY-MM-DD`, with its weekday. */
  readonly date: (iso: string) => string;
  readonly country: (code: string) => string;
}

/** Speaks in the words of a language, by the customs of a locale. */
export function sayingIn(words: SignUpWords, locale: string): Saying {
  const days = new Intl.DateTimeFormat(locale, {
    ...{ weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' },
  });
  const countries = new Intl.DisplayNames([locale], { type: 'region' });
  return {
    words,
    locale,
    amount: (minor, currency) => {
      const digits = minorDigits(currency);
      const padded = minor.padStart(digits + 1, '0');
      const decimal = digits === 0 ? padded : `${padded.slice(0, -digits)}.${padded.slice(-digits)}`;
      const format = new Intl.NumberFormat(locale, {
        ...{ style: 'currency', currency, minimumFractionDigits: digits, maximumFractionDigits: digits },
      });
      // As a text, so that no digit is lost that a number does not hold.
      return format.format(decimal as unknown as number);
    },
    date: (iso) => days.format(new Date(`${iso}T12:00:00Z`)),
    country: (code) => (code === '' ? '' : (countries.of(code) ?? code)),
  };
}

export const SayingContext = createContext<Saying>(sayingIn(WORDS, 'en-GB'));
export const useSaying = () => useContext(SayingContext);
