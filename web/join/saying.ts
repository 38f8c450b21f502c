import { createContext, useContext } from 'react';
import { WORDS } from '../../core/words/signUp/en.ts';
import { parseDuration } from '../../core/dates/duration.ts';
import type { OfferedRateView } from '../../server/signUp/messages.ts';
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

/** Decimals of most currencies. */
export const USUAL_DIGITS = 2;

/** Speaks in the words of a language, by the customs of a locale. */
export function sayingIn(
  words: SignUpWords,
  locale: string,
  digitsOf: Readonly<Record<string, number>> = {},
): Saying {
  const days = new Intl.DateTimeFormat(locale, {
    ...{ weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' },
  });
  const countries = new Intl.DisplayNames([locale], { type: 'region' });
  return {
    words,
    locale,
    amount: (minor, currency) => {
      const digits = digitsOf[currency] ?? USUAL_DIGITS;
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

/**
 * What a rate costs, taxes within.
 * @example '£12.00 every month', '£50.00 every month, 7 times', 'your own amount every month'
 */
export function sayRate(rate: OfferedRateView, { words, amount }: Saying): string {
  const { each, chosen, currency, interval, payments, counted } = rate;
  const sum = chosen ? words.ownAmount : each === null ? '' : amount(each, currency);
  const rhythm = interval === null ? words.once : words.every(interval);
  const times = payments === null ? '' : `, ${words.times(payments)}`;
  return `${sum}${counted ? ` ${words.eachOf}` : ''} ${rhythm}${times}`.trim();
}

/** What it saves against another rate, or costs more; empty where it does neither. */
export function saySaving({ saves, currency }: OfferedRateView, { words, amount }: Saying): string {
  if (saves === null) return '';
  const isMore = saves.amount.startsWith('-');
  const size = saves.amount.replace('-', '');
  return words.saves(amount(size, currency), saves.than, saves.basis, isMore);
}

/** The trial that it begins with; empty where there is none. */
export function sayTrial({ trial }: OfferedRateView, { words }: Saying): string {
  const length = trial === null ? null : parseDuration(trial);
  return length === null ? '' : words.trialFirst(words.length(length));
}
