import type { OptionalLetter } from '../../letters/events.ts';
import type { PageLanguage } from '../signUp/languages.ts';

type MethodKind = 'card' | 'bank account';
/** Changes that customers may make themselves. */
type OwnChange =
  'cancel' | 'go on' | 'pause' | 'skip' | 'quantity' | 'extra' | 'once' | 'amount' | 'variant' | 'code';

type When = 'now' | 'period end' | 'after payments';
type FromWhen = 'now' | 'renewal';

/** What is said where a subscription is changed, of what customers may change themselves. */
export interface AlterWords {
  readonly group: string;
  readonly choose: string;
  readonly more: string;
  /** What each is called on a button. */
  readonly short: Readonly<Record<OwnChange, string>>;
  readonly looking: string;
  /** What is changed, with the day that it is for; null: as the server says it, in English. */
  readonly says: ((kind: OwnChange, date: string) => string) | null;
  readonly asItIs: string;
  readonly asItWillBe: string;
  readonly beforeAndAfter: string;
  readonly nothing: string;
  readonly nothingMore: string;
  readonly prices: {
    readonly title: string;
    readonly of: (currency: string, withoutTax: boolean) => string;
    readonly headings: readonly [string, string];
    readonly inAll: string;
  };
  readonly ends: string;
  readonly whens: Readonly<Record<When, string>>;
  readonly paymentsInAll: string;
  readonly periods: (most: number) => string;
  readonly howMany: string;
  readonly extra: string;
  readonly extraNow: (name: string, quantity: number) => string;
  readonly howManyOfIt: string;
  readonly range: (min: number, max: number, mayBeNone: boolean) => string;
  readonly added: string;
  readonly howManyAdded: string;
  readonly onceWhen: Readonly<Record<FromWhen, string>>;
  readonly toWhich: string;
  readonly code: string;
  readonly fromWhen: string;
  readonly fromWhens: Readonly<Record<FromWhen, string>>;
  readonly settledIn: (date: string) => string;
  readonly settledOn: (date: string) => string;
  readonly howSettled: string;
  readonly together: { readonly carried: string; readonly credit: string; readonly withTax: string };
  readonly creditLeft: (amount: string) => string;
  readonly takenBack: (of: {
    number: string;
    amount: string;
    anew: boolean;
    credit: string | null;
  }) => string;
}

/** What customers read on their own page, in one language: another language is one file that holds this. */
export interface OwnWords {
  readonly language: PageLanguage;
  readonly loading: string;
  readonly thread: string;
  readonly and: string;
  readonly stopped: (of: { writeTo: string; isOpen: boolean }) => string;
  readonly serviceStopped: (date: string) => string;
  readonly toCome: string;
  readonly credit: string;
  readonly usedFirst: string;
  readonly paid: string;
  readonly invoice: (number: string, date: string) => string;
  readonly creditInvoice: (number: string, date: string) => string;
  readonly asPdf: (what: string) => string;
  readonly messages: string;
  readonly questions: string;
  readonly you: string;
  readonly writeHere: string;
  readonly orByMail: (address: string) => string;
  readonly send: string;
  readonly sent: string;
  readonly open: (owed: string) => string;
  readonly invoiceDue: (number: string, date: string) => string;
  readonly payNow: (owed: string, card: string) => string;
  readonly waitsForCard: string;
  readonly payWithCard: string;
  readonly orAnotherCard: string;
  readonly howYouPay: string;
  readonly yourCard: string;
  readonly noCardYet: string;
  readonly now: (card: string, isGood: boolean) => string;
  readonly expires: (card: string, on: string) => string;
  readonly byGiving: (kind: MethodKind, agreed: string) => string;
  readonly kinds: Readonly<Record<MethodKind, string>>;
  readonly whatIsGiven: string;
  readonly giveBank: string;
  readonly giveCard: string;
  readonly payByCard: string;
  readonly changeCard: string;
  readonly andPay: (does: string, owed: string) => string;
  readonly bankGiven: string;
  readonly cardChanged: string;
  readonly cardGiven: string;
  readonly declined: string;
  readonly toConfirm: string;
  readonly underWay: string;
  readonly tooMany: string;
  readonly paidNow: string;
  readonly didNotWork: string;
  readonly card: {
    readonly number: string;
    readonly expires: string;
    readonly expiresAs: string;
    readonly holder: string;
    readonly note: string;
    readonly badNumber: string;
    readonly badExpires: string;
    readonly expired: string;
    readonly noHolder: string;
  };
  readonly methods: {
    readonly first: (card: string) => string;
    readonly then: (card: string) => string;
    readonly stop: (what: 'it' | 'this card' | 'this account') => string;
    readonly withdraws: (card: string) => string;
    readonly goesOn: (plan: string, card: string) => string;
    readonly nothingLeft: (plans: string) => string;
    readonly underWay: string;
    readonly withdraw: string;
    readonly keep: string;
    readonly done: string;
  };
  readonly transfer: {
    readonly back: string;
    readonly reached: string;
    readonly notMade: string;
    readonly notConfirmed: string;
    readonly notPaid: string;
    readonly unknown: string;
    readonly collecting: (number: string, amount: string) => string;
    readonly confirmTitle: (amount: string) => string;
    readonly confirmAsk: (number: string, date: string) => string;
    readonly confirm: (amount: string) => string;
    readonly sentOn: string;
    readonly pay: (amount: string, number: string | null) => string;
    readonly says: string;
  };
  readonly policies: Readonly<Record<'terms of service' | 'cancellation' | 'refund', string>>;
  readonly terms: {
    readonly title: string;
    readonly says: string;
    readonly agree: (version: number) => string;
    readonly goOn: string;
  };
  readonly changes: {
    readonly title: string;
    readonly endsOn: (date: string) => string;
    readonly names: Readonly<Record<OwnChange, string>>;
    readonly done: string;
  };
  readonly alter: AlterWords;
  readonly bank: {
    readonly holder: string;
    readonly note: string;
    readonly noIban: string;
    readonly badIban: string;
    readonly noHolder: string;
  };
  readonly stop: {
    readonly kinds: Readonly<Record<OptionalLetter, string>>;
    readonly title: string;
    readonly asks: (kind: string, to: string) => string;
    readonly stopped: (kind: string, to: string) => string;
    readonly stop: string;
    readonly again: string;
    readonly others: string;
  };
}
