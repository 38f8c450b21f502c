import type { PageLanguage } from '../words/signUp/languages.ts';
import type { LetterEvent } from './events.ts';

/** The words of a letter: Liquid, with fields and conditions alone. */
export interface LetterTemplate {
  readonly subject: string;
  readonly paragraphs: readonly string[];
  /** What the link to the customer's own page says, where the letter carries one. */
  readonly link?: string;
}

/** What letters of a language say: another language is one file that holds this. */
export interface LetterWords {
  readonly language: PageLanguage;
  /** How a letter begins; it may name the fields that every letter has. */
  readonly greeting: string;
  readonly letters: Readonly<Record<LetterEvent, LetterTemplate>>;
  readonly sentences: Sentences;
  /** Why a payment was declined, by its code, to follow a colon; English stands for what is not here. */
  readonly declines: Readonly<Record<string, string>> | null;
  /** Two things or more, the last after 'and'. */
  readonly and: string;
  /** A day to a day. */
  readonly fromTo: (of: { from: string; to: string }) => string;
  /** 'Larkfield ending 4242'; the same of a bank account. */
  readonly card: (of: { network: string; lastFour: string }) => string;
  readonly bankAccount: (of: { lastFour: string }) => string;
  readonly transfer: string;
  /** As they belong to the reader: 'your card Larkfield ending 4242'. */
  readonly yourCard: (of: { card: string }) => string;
  readonly yourBankAccount: (of: { lastFour: string }) => string;
  readonly yourTransfer: string;
  readonly yourCardOnFile: string;
  readonly onFile: string;
  /** At the foot of a letter that need not be: what its link does. */
  readonly unsubscribe: string;
}

/** Sentences that are put together from facts: each takes them written out already. */
export interface Sentences {
  'pay on own page': (of: object) => string;
  'try again on': (of: { date: string }) => string;
  'cannot try again': (of: object) => string;
  'can be paid': (of: object) => string;
  'service stopped': (of: object) => string;
  'invoice unpaid': (of: object) => string;
  'no card to charge': (of: object) => string;
  'still goes through': (of: { date: string }) => string;
  'would not go through': (of: { date: string }) => string;
  'invoice follows': (of: { date: string }) => string;
  'is charged on': (of: { charged: string; date: string }) => string;
  'charged that day': (of: { charged: string }) => string;
  'each charged by itself': (of: object) => string;
  'in parts': (of: { count: string; parts: string }) => string;
  'amount by': (of: { amount: string; date: string }) => string;
  'amount on': (of: { amount: string; date: string }) => string;
  'part of': (of: { place: string; parts: string }) => string;
  'next payment': (of: { amount: string; date: string }) => string;
  'nothing more': (of: object) => string;
  'left as credit': (of: { amount: string }) => string;
  'not to be paid': (of: { amount: string }) => string;
  'your credit': (of: { amount: string }) => string;
  'not charged until': (of: { plans: string }) => string;
  'without card end': (of: object) => string;
  'without card pause': (of: object) => string;
  'without card invoice': (of: object) => string;
  'without card wait': (of: object) => string;
  'whole on own page': (of: object) => string;
  'by transfer': (of: object) => string;
  'in cash': (of: object) => string;
  'by cheque': (of: object) => string;
  'another way': (of: object) => string;
  nothing: (of: object) => string;
  /** What was changed: in English as staff read it, in other languages by its kind and the day that it is for. */
  altered: (of: { says: string; kind: string; date: string }) => string;
  agreedCard: (of: { business: string }) => string;
}
