import type { Duration } from '../../dates/duration.ts';
import type { SignUpWords } from './words.ts';

const UNITS = { D: 'day', W: 'week', M: 'month', Y: 'year' } as const;
const length = ({ count, unit }: Duration) => `${count} ${UNITS[unit]}${count === 1 ? '' : 's'}`;

/** A sign-up page in English. */
export const WORDS: SignUpWords = {
  language: 'en',
  labels: {
    choose: 'What you take',
    details: 'About you',
    ship: 'Where it goes',
    pay: 'How you pay',
    join: 'Join',
    thanks: 'Thank you',
  },
  fields: {
    name: 'Name',
    email: 'E-mail address',
    phone: 'Telephone',
    organisation: 'Organisation',
    address: 'Address',
    postcode: 'Postcode',
    region: 'Region',
    country: 'Country',
    language: 'Language',
    tax_number: 'Tax number',
    number: 'Card number',
    expires: 'Expires',
    holder: 'Name on it',
    iban: 'IBAN',
    quantity: 'How many',
    amount: 'Your amount',
    code: 'Code',
    starts: 'Starts on',
    billingDay: 'Day of the month on which you pay',
  },
  methods: {
    card: 'Card',
    'bank debit': 'Bank account',
    'online transfer': 'Online transfer',
    invoice: 'Invoice',
    later: 'Later',
  },
  methodSays: {
    'online transfer': 'Once you have joined, your own page takes you to where you pay.',
    invoice: 'You get an invoice by e-mail, and pay it yourself.',
    later: 'Nothing is needed now. We ask you before the trial ends.',
  },
  policies: {
    'terms of service': 'the terms of service',
    cancellation: 'the cancellation terms',
    refund: 'the refund terms',
  },
  closed: {
    off: 'Nobody can join here at present.',
    over: 'One could join here until a day that is over.',
    full: 'All places are taken.',
    nothing: 'There is nothing to join at present.',
  },
  every: (interval) => (interval.count === 1 ? `every ${UNITS[interval.unit]}` : `every ${length(interval)}`),
  length,
  once: 'once',
  ownAmount: 'your own amount',
  from: (amount) => `from ${amount}`,
  eachOf: 'for each,',
  times: (n) => `${n} times`,
  saves: (amount, than, basis, isMore) =>
    isMore
      ? `${amount} more in all than ${than}`
      : basis === 'a year'
        ? `saves ${amount} a year against ${than}`
        : basis === 'in all'
          ? `${amount} less in all than ${than}`
          : `${amount} less each time than ${than}`,
  trialFirst: (trial) => `a trial of ${trial} first`,
  optional: 'optional',
  noneOr: (range) => `none, or ${range}`,
  between: (min, max) =>
    min !== null && max !== null
      ? `${min} to ${max}`
      : min !== null
        ? `at least ${min}`
        : max !== null
          ? `at most ${max}`
          : '',
  upTo: (n) => `at most ${n}`,
  lastDay: 'the last day',
  usualDay: 'as it comes',
  atOnce: 'today',
  yes: 'Yes',
  no: 'No',
  choose: 'Choose …',
  always: 'always with it',
  apply: 'Use it',
  other: 'Another',
  shipHere: 'To this address',
  shipElsewhere: 'To another address',
  notShipped: (country) => `We do not ship to ${country}.`,
  placesLeft: (n) => (n === 1 ? 'One place is left.' : `${n} places are left.`),
  until: (date) => `You can join until ${date}.`,
  summary: 'What you agree to',
  today: (amount) => `You pay ${amount} today.`,
  nothingToday: 'You pay nothing today.',
  freeUntil: (date) => `The trial runs until ${date}. If you cancel before then, you pay nothing more.`,
  dues: 'What is charged, and when',
  goesOn: 'and so on, until you cancel',
  ends: (date) => `It ends on ${date} by itself.`,
  inAll: (amount) => `${amount} in all.`,
  taxIn: (percent) => `Tax of ${percent} % is in it.`,
  setUp: 'Set-up, once',
  oncePart: (name) => `${name}, once`,
  trialPart: (days) => `The trial, ${days} days`,
  stubPart: (name, days, until) => `${name}: ${days === 1 ? 'one day' : `${days} days`} until ${until}`,
  startsOn: (date) => `It starts on ${date}.`,
  agreedCard: (business) =>
    `I authorise ${business} to charge this card for what my subscriptions come to, on the dates that they name, until I withdraw this.`,
  agreedBank: (business) =>
    `I authorise ${business} to collect from this bank account what my subscriptions come to, on the dates that they name, and my bank to pay that, until I withdraw this.`,
  agreeTo: (policy) => `I have read ${policy} and agree.`,
  read: 'Read',
  needed: 'This is needed.',
  badEmail: 'Give an e-mail address, such as ada@post.example.',
  badNumber: 'Give a number.',
  mustAgree: 'Agree to this to join.',
  joining: 'Joining …',
  computing: 'Computing …',
  loading: 'Loading …',
  away: 'We cannot be reached just now. What you typed is still here; try again.',
  changed: 'Something was changed while you filled this in. Look at what you agree to once more, then join.',
  lookAgain: (n) => (n === 1 ? 'One thing is missing above.' : `${n} things are missing above.`),
  leaveEmpty: 'Leave this empty',
  rehearsal: 'A rehearsal: all is played through as for a customer, and nothing of it is kept.',
  charged: (amount, method) => `${amount} was charged to your ${method} today.`,
  nothingCharged: 'Nothing was charged today.',
  notCollected: (amount) =>
    `You have joined, but ${amount} could not be collected. We wrote to you; your own page takes another card.`,
  underWay: (amount) => `${amount} is being collected; you get a receipt once it is.`,
  toConfirm: (amount) =>
    `Your bank asks you to confirm ${amount}: open your own page to do so. Nothing is charged before that.`,
  byHand: (amount) => `${amount} is to be paid; the invoice is on its way to you.`,
  next: (amount, date) => `Next: ${amount} on ${date}.`,
  letter: (email) => `A letter with all of this is on its way to ${email}.`,
  ownPage: 'Open your own page',
  toRead: 'For you',
  goOn: 'Go on',
  practice: 'Cards to practise with',
};
