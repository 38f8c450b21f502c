/** The events on which a customer is written to. */
export type LetterEvent = keyof typeof LETTER_EVENTS;

/** A field that the words of a letter may name, or a part of it may depend on. */
export type LetterField =
  | 'business'
  | 'customer'
  | 'plan'
  | 'amount'
  | 'invoice'
  | 'card'
  | 'charged'
  | 'date'
  | 'period'
  | 'reason'
  | 'next'
  | 'words'
  | 'owed'
  | 'policy';

/** What a letter of an event can say. */
export interface LetterFacts {
  /** When it is written, in plain words. */
  readonly says: string;
  /** The fields that it has, beside `business`, `customer` and `plan`; what each holds. */
  readonly fields: Readonly<Partial<Record<LetterField, string>>>;
  /** The cases of the event that a part may depend on: the code in `how`, and what it means. */
  readonly how?: Readonly<Record<string, string>>;
  /** Fields that it has to name, whatever else it says. */
  readonly needs?: readonly LetterField[];
  /** Whether it carries the link to the customer's own page. */
  readonly link: boolean;
}

const CHARGED = { card: 'The card or bank account', charged: '“your card …”' };
const RECOVERY = {
  ...{ amount: 'What is owed', ...CHARGED, reason: 'Why it is unpaid', next: 'What happens next' },
};
const PAID = {
  automatic: 'It is charged by itself',
  'by hand': 'It is paid by hand',
};

/** Every event, with what its letter can say: what the editor of letters offers, and what a template is held against. */
export const LETTER_EVENTS = {
  message: { says: 'A message from staff', fields: { reason: 'The message' }, needs: ['reason'], link: true },
  started: {
    says: 'A subscription starts',
    fields: {
      ...{ date: 'The day it starts', words: 'What staff wrote for this customer' },
      ...{ amount: 'The first payment', next: 'The day of the first payment', ...CHARGED },
    },
    how: {
      ...{ ...PAID, 'no card': 'There is no card yet', 'asked for': 'A card was asked for' },
      free: 'Nothing is charged',
    },
    link: false,
  },
  'trial ending': {
    says: 'A trial ends soon',
    fields: {
      ...{
        date: 'The day the trial ends',
        amount: 'The first payment',
        next: 'The day of the first payment',
      },
      ...{ ...CHARGED, policy: 'Your cancellation terms' },
    },
    how: PAID,
    // A law may ask for it: what is charged, when, and how to have it stopped.
    needs: ['amount', 'next', 'policy'],
    link: true,
  },
  'trial without a card': {
    says: 'A trial ends soon, and there is no card',
    fields: {
      ...{
        date: 'The day the trial ends',
        amount: 'The first payment',
        next: 'The day of the first payment',
      },
      ...{ reason: 'What happens without a card', policy: 'Your cancellation terms' },
    },
    needs: ['amount', 'next', 'policy'],
    link: true,
  },
  'renewal coming': {
    says: 'A renewal is near',
    fields: { date: 'The day it renews', amount: 'What is due', next: 'How it is paid' },
    link: true,
  },
  receipt: {
    says: 'A payment was collected',
    fields: {
      ...{ amount: 'What was paid', invoice: 'The number of the invoice', date: 'The day it was paid' },
      ...{ period: 'What it is for', ...CHARGED },
      reason: 'What the bank statement says, or by what means it was paid',
    },
    how: { ...PAID, transfer: 'It was an online transfer' },
    link: false,
  },
  'confirm payment': {
    says: 'The bank asks to confirm a payment',
    fields: {
      ...{ amount: 'What is charged', invoice: 'The number of the invoice', period: 'What it is for' },
      ...{ date: 'The last day to confirm it', ...CHARGED },
    },
    link: true,
  },
  'payment declined': {
    says: 'A payment was declined',
    fields: { ...RECOVERY, date: 'The day of the next step' },
    link: true,
  },
  'payment still declined': {
    says: 'A payment is still unpaid',
    fields: { ...RECOVERY, date: 'The day of the next step' },
    link: true,
  },
  'last reminder': {
    says: 'Last reminder before the final action',
    fields: { ...RECOVERY, date: 'The day the subscription stops' },
    link: true,
  },
  lapsed: {
    says: 'The subscription has stopped',
    fields: { amount: 'What stays open', date: 'The day it stopped' },
    link: true,
  },
  'card expiring': {
    says: 'A card expires at the end of the month',
    fields: { card: 'The card', date: 'The last day it is good', next: 'The next payment' },
    link: true,
  },
  'card replaced': {
    says: 'Another card was given',
    fields: CHARGED,
    how: { card: 'It is a card', 'bank account': 'It is a bank account' },
    link: false,
  },
  'terms changing': {
    says: 'The rate changes',
    fields: {
      ...{ date: 'The day of the change', amount: 'The new rate', reason: 'The first payment under it' },
      next: 'The day of that payment',
    },
    needs: ['date', 'amount'],
    link: false,
  },
  'subscription altered': {
    says: 'Something was changed in a subscription',
    fields: { reason: 'What was changed', date: 'The day it is for', next: 'What comes next' },
    link: true,
  },
  cancelled: {
    says: 'A subscription was cancelled',
    fields: { reason: 'What was changed', date: 'The day it ends', next: 'What comes next' },
    link: true,
  },
  'mandate request': {
    says: 'A way to pay is asked for',
    fields: {
      ...{
        date: 'The day it was first asked for',
        amount: 'The next payment',
        next: 'The day of that payment',
      },
      owed: 'What is open already',
    },
    how: { first: 'It is asked for the first time', again: 'It is a reminder' },
    link: true,
  },
  'mandate confirmed': {
    says: 'A way to pay was given',
    fields: { ...CHARGED, date: 'The day it was given', reason: 'What was agreed to' },
    needs: ['reason'],
    link: true,
  },
  'mandate withdrawn': {
    says: 'An authority to charge was withdrawn',
    fields: {
      ...CHARGED,
      date: 'The day it was withdrawn',
      next: 'What is not charged until another is given',
    },
    link: false,
  },
  'invoice to pay': {
    says: 'An invoice to be paid by hand',
    fields: {
      ...{ invoice: 'The number of the invoice', amount: 'What is due', date: 'The day it is due' },
      ...{ period: 'What it is for', next: 'Its parts, where it is paid in parts' },
    },
    link: true,
  },
  'invoice in parts': {
    says: 'An invoice is paid in parts',
    fields: {
      ...{ invoice: 'The number of the invoice', amount: 'What is open', period: 'The parts' },
      next: 'How they are paid',
    },
    link: true,
  },
  'part due': {
    says: 'A later part of an invoice is due soon',
    fields: {
      ...{ invoice: 'The number of the invoice', amount: 'What is due', date: 'The day it is due' },
      ...{ period: 'Which part it is', next: 'How it is paid' },
    },
    link: true,
  },
  'invoice reminder': {
    says: 'An invoice to be paid by hand is due soon',
    fields: {
      ...{ invoice: 'The number of the invoice', amount: 'What is due', date: 'The day it is due' },
      period: 'What it is for',
    },
    link: true,
  },
  'invoice overdue': {
    says: 'An invoice paid by hand is late',
    fields: { ...RECOVERY, date: 'The day of the next step' },
    link: true,
  },
  'credit note': {
    says: 'A credit note was issued',
    fields: {
      ...{ words: 'The number of the credit note', amount: 'What is credited', reason: 'Why' },
      ...{ invoice: 'The number of the invoice', next: 'What becomes of it' },
    },
    link: true,
  },
  refund: {
    says: 'Money was paid back',
    fields: {
      ...{ amount: 'What was paid back', date: 'The day', reason: 'Why', ...CHARGED },
      period: 'By what means, where it was by hand',
    },
    how: PAID,
    link: true,
  },
  ended: {
    says: 'The subscription is complete',
    fields: { date: 'The day it ended', amount: 'What is left as credit' },
    link: false,
  },
} as const satisfies Readonly<Record<string, LetterFacts>>;

/** Fields that every letter has. */
export const FIELDS_OF_ALL = {
  customer: 'The name of the customer',
  plan: 'The name of the plan',
  business: 'The name of your business',
} as const;

/** What a letter of an event can say, typed alike for all of them. */
export const factsOf = (event: LetterEvent): LetterFacts => LETTER_EVENTS[event];

/** The fields that the words of an event may name. */
export function fieldsOf(event: LetterEvent): Readonly<Partial<Record<LetterField, string>>> {
  return { ...FIELDS_OF_ALL, ...factsOf(event).fields };
}

export const isLetterEvent = (name: string): name is LetterEvent => Object.hasOwn(LETTER_EVENTS, name);

/**
 * Letters that neither law nor contract asks for: a customer may have them stopped. That a card expires, or an invoice is due
 * soon, only spares them what would follow.
 */
export const OPTIONAL_LETTERS = [
  'receipt',
  'card expiring',
  'invoice reminder',
  'ended',
] as const satisfies readonly LetterEvent[];
export type OptionalLetter = (typeof OPTIONAL_LETTERS)[number];
export const isOptionalLetter = (event: string): event is OptionalLetter =>
  (OPTIONAL_LETTERS as readonly string[]).includes(event);
