import type { OptionalLetter } from './events.ts';
import type { PageLanguage } from '../words/signUp/languages.ts';

/** What the page says on which a customer stops letters. */
export interface StopWords {
  readonly kinds: Readonly<Record<OptionalLetter, string>>;
  readonly title: string;
  readonly asks: (kind: string, to: string) => string;
  readonly stopped: (kind: string, to: string) => string;
  readonly stop: string;
  readonly again: string;
  readonly others: string;
}

const en: StopWords = {
  kinds: {
    receipt: 'receipts',
    'card expiring': 'letters about a card that expires',
    'invoice reminder': 'reminders of invoices that fall due',
    ended: 'letters about a subscription that is complete',
  },
  title: 'Letters you get',
  asks: (kind, to) => `Shall we send no more ${kind} to ${to}?`,
  stopped: (kind, to) => `We send no more ${kind} to ${to}.`,
  stop: 'Stop these letters',
  again: 'Send them again',
  others: 'Letters that we owe you, such as about a payment that fails, still come.',
};
const de: StopWords = {
  kinds: {
    receipt: 'Quittungen',
    'card expiring': 'Briefe über eine Karte, die abläuft',
    'invoice reminder': 'Erinnerungen an fällige Rechnungen',
    ended: 'Briefe über ein abgeschlossenes Abonnement',
  },
  title: 'Briefe, die Sie bekommen',
  asks: (kind, to) => `Sollen wir an ${to} nichts dergleichen mehr schicken: ${kind}?`,
  stopped: (kind, to) => `An ${to} schicken wir nichts dergleichen mehr: ${kind}.`,
  stop: 'Diese Briefe abbestellen',
  again: 'Wieder schicken',
  others: 'Briefe, die wir Ihnen schulden, etwa über eine Zahlung, die nicht durchgeht, kommen weiterhin.',
};
const fr: StopWords = {
  kinds: {
    receipt: 'reçus',
    'card expiring': 'lettres sur une carte qui expire',
    'invoice reminder': 'rappels de factures à payer',
    ended: 'lettres sur un abonnement terminé',
  },
  title: 'Les lettres que vous recevez',
  asks: (kind, to) => `Ne plus rien envoyer de tel à ${to} : ${kind} ?`,
  stopped: (kind, to) => `Nous n’envoyons plus rien de tel à ${to} : ${kind}.`,
  stop: 'Arrêter ces lettres',
  again: 'Les envoyer de nouveau',
  others: 'Les lettres que nous vous devons, par exemple sur un paiement qui n’est pas passé, continuent.',
};

const WORDS: Readonly<Record<PageLanguage, StopWords>> = { en, de, fr };

export const stopWords = (language: PageLanguage): StopWords => WORDS[language];
