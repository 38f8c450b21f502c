import { minorDigits } from '../money/currency.ts';
import { parseDecimal } from '../money/decimal.ts';
import { parseDuration } from '../dates/duration.ts';
import { meaningOf } from '../recovery/declineCodes.ts';
import { sayRate, type SayableTerms } from '../words/sayRate.ts';
import { signUpWords } from '../words/signUp/wordsOf.ts';
import { amountIn, dateIn, dayIn, isHouse, type LetterManner } from './customs.ts';
import type { Said, SaidCard } from './said.ts';
import { letterWords } from './wordsOf.ts';

/**
 * Writes out what a field holds.
 * @example sayIn(money(123450n, 'EUR'), { language: 'de', locale: 'de-AT' }) // '€ 1.234,50'
 */
export function sayIn(said: Said, manner: LetterManner): string {
  if (typeof said === 'string') return said;
  const words = letterWords(manner.language);
  if ('minor' in said) return amountIn(said.minor, said.currency, manner);
  if ('date' in said) return dateIn(said.date, manner);
  if ('from' in said) {
    const day = (iso: string) => dayIn(iso, manner);
    return said.from === said.to ? day(said.from) : words.fromTo({ from: day(said.from), to: day(said.to) });
  }
  if ('network' in said) return cardIn(said, manner);
  if ('declined' in said) return words.declines?.[said.declined] ?? meaningOf(said.declined).says;
  if ('rate' in said) return rateIn(said.rate, manner);
  if ('all' in said) {
    const texts = said.all.map((one) => sayIn(one, manner)).filter((text) => text !== '');
    if (said.joined === ' ') return texts.join(' ');
    if (said.joined === ',') return texts.join(', ');
    return texts.join(` ${words.and} `);
  }
  const of = Object.fromEntries(
    Object.entries(said.of as Readonly<Record<string, Said>>).map(([key, one]) => [key, sayIn(one, manner)]),
  );
  return (words.sentences[said.sentence] as (of: object) => string)(of);
}

/** How bank accounts and transfers are named where cards have their network. */
export const BANK_ACCOUNT = 'Bank account';
export const ONLINE_TRANSFER = 'Online transfer';

function cardIn({ network, lastFour, possessive = false }: SaidCard, { language }: LetterManner): string {
  const words = letterWords(language);
  if (network === '') return possessive ? words.yourCardOnFile : words.onFile;
  if (network === BANK_ACCOUNT) return (possessive ? words.yourBankAccount : words.bankAccount)({ lastFour });
  if (network === ONLINE_TRANSFER) return possessive ? words.yourTransfer : words.transfer;
  const card = lastFour === '' ? network : words.card({ network, lastFour });
  return possessive ? words.yourCard({ card }) : card;
}

/** A rate in one line: in English with all that it has, in other languages what is paid and how often. */
function rateIn(terms: SayableTerms, manner: LetterManner): string {
  if (manner.language === 'en' && isHouse(manner)) return sayRate(terms);
  const words = signUpWords(manner.language);
  const { currency } = terms;
  const amount = (text: string) => amountIn(parseDecimal(text, minorDigits(currency)), currency, manner);
  const once = terms.once ?? [];
  if (!terms.lines) return `${once.map((one) => amount(one.amount)).join(' + ')} ${words.once}`;
  const prices = terms.lines.map(({ price }) => {
    switch (price.scheme) {
      case 'flat':
      case 'pack':
        return amount(price.amount);
      case 'chosen':
        return words.ownAmount;
      case 'instalments':
        return amount(price.total);
      case 'step':
        return words.from(amount(price.tiers[0]?.amount ?? '0'));
      case 'each':
        return words.from(unitIn(price.amount, currency, manner));
      case 'each-tier':
      case 'reached-tier':
        return words.from(unitIn(price.tiers.at(-1)?.each ?? '0', currency, manner));
    }
  });
  const interval = parseDuration(terms.interval ?? '');
  const rhythm = interval ? ` ${words.every(interval)}` : '';
  const times = terms.ends?.after ? `, ${words.times(terms.ends.after)}` : '';
  return `${prices.join(' + ')}${rhythm}${times}`;
}

/** What one of many costs, which may have more decimals than its currency. */
function unitIn(text: string, currency: string, { locale }: LetterManner): string {
  const digits = Math.max(minorDigits(currency), text.split('.')[1]?.length ?? 0);
  return new Intl.NumberFormat(locale, {
    ...{ style: 'currency', currency, minimumFractionDigits: digits, maximumFractionDigits: digits },
  }).format(text as unknown as number);
}
