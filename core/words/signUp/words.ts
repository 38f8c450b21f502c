import type { Duration } from '../../dates/duration.ts';
import type { PageLanguage } from './languages.ts';

/** The parts of a sign-up page that a business may call otherwise. */
export type LabelName = 'choose' | 'details' | 'ship' | 'pay' | 'join' | 'thanks';

/** What somebody gives of themselves on a sign-up page. */
export type PageField =
  | 'name'
  | 'email'
  | 'phone'
  | 'organisation'
  | 'address'
  | 'postcode'
  | 'region'
  | 'country'
  | 'language'
  | 'tax_number'
  | 'number'
  | 'expires'
  | 'holder'
  | 'iban'
  | 'quantity'
  | 'amount'
  | 'code'
  | 'starts'
  | 'billingDay';

type Basis = 'a year' | 'in all' | 'each time, bought once';

/**
 * All that a sign-up page says of itself, in one language. What is passed in is written already as the reader writes it:
 * amounts with their currency, dates with their weekday.
 */
export interface SignUpWords {
  readonly language: PageLanguage;
  readonly labels: Readonly<Record<LabelName, string>>;
  readonly fields: Readonly<Record<PageField, string>>;
  readonly methods: Readonly<Record<'card' | 'bank debit' | 'online transfer' | 'invoice' | 'later', string>>;
  readonly methodSays: Readonly<Record<'online transfer' | 'invoice' | 'later', string>>;
  readonly policies: Readonly<Record<'terms of service' | 'cancellation' | 'refund', string>>;
  readonly closed: Readonly<Record<'off' | 'over' | 'full' | 'nothing', string>>;
  readonly every: (interval: Duration) => string;
  readonly length: (length: Duration) => string;
  readonly once: string;
  readonly ownAmount: string;
  readonly from: (amount: string) => string;
  readonly eachOf: string;
  readonly times: (n: number) => string;
  readonly saves: (amount: string, than: string, basis: Basis, isMore: boolean) => string;
  readonly trialFirst: (length: string) => string;
  readonly optional: string;
  readonly noneOr: (range: string) => string;
  readonly between: (min: string | null, max: string | null) => string;
  readonly upTo: (n: string) => string;
  readonly lastDay: string;
  readonly usualDay: string;
  readonly atOnce: string;
  readonly yes: string;
  readonly no: string;
  readonly choose: string;
  readonly always: string;
  readonly apply: string;
  readonly other: string;
  readonly shipHere: string;
  readonly shipElsewhere: string;
  readonly notShipped: (country: string) => string;
  readonly placesLeft: (n: number) => string;
  readonly until: (date: string) => string;
  readonly summary: string;
  readonly today: (amount: string) => string;
  readonly nothingToday: string;
  readonly freeUntil: (date: string) => string;
  readonly dues: string;
  readonly goesOn: string;
  readonly ends: (date: string) => string;
  readonly inAll: (amount: string) => string;
  readonly taxIn: (percent: string) => string;
  /** What the first payment is made of. */
  readonly setUp: string;
  readonly oncePart: (name: string) => string;
  readonly trialPart: (days: number) => string;
  readonly stubPart: (name: string, days: number, until: string) => string;
  readonly startsOn: (date: string) => string;
  readonly agreedCard: (business: string) => string;
  readonly agreedBank: (business: string) => string;
  readonly agreeTo: (policy: string) => string;
  readonly read: string;
  readonly needed: string;
  readonly badEmail: string;
  readonly badNumber: string;
  readonly mustAgree: string;
  readonly joining: string;
  readonly computing: string;
  readonly loading: string;
  readonly away: string;
  readonly changed: string;
  readonly lookAgain: (n: number) => string;
  readonly leaveEmpty: string;
  readonly rehearsal: string;
  readonly charged: (amount: string, method: string) => string;
  readonly nothingCharged: string;
  readonly notCollected: (amount: string) => string;
  readonly underWay: (amount: string) => string;
  readonly toConfirm: (amount: string) => string;
  readonly byHand: (amount: string) => string;
  readonly next: (amount: string, date: string) => string;
  readonly letter: (email: string) => string;
  readonly ownPage: string;
  readonly toRead: string;
  readonly goOn: string;
  readonly practice: string;
}
