import { WORDS as PAGE } from '../words/signUp/en.ts';
import type { LetterWords } from './words.ts';

const PAY_OR_CHANGE = 'You can pay now or give us another card on your own page.';
const NOT_ASKED = 'If you did not ask for this, please write to us.';
const OWN_PAGE = 'Your own page';
const CANCELLING = '{% if policy %}How to cancel: {{ policy }}{% endif %}';

/** Letters in English. */
export const WORDS: LetterWords = {
  language: 'en',
  greeting: 'Dear {{ customer }},',
  letters: {
    message: {
      subject: 'A message from {{ business }}',
      paragraphs: ['{{ reason }}'],
      link: 'Read and answer it on your own page',
    },
    started: {
      subject: 'Welcome to {{ plan }}',
      paragraphs: [
        'Your subscription to {{ plan }} starts on {{ date }}. {% if words %}{{ words }}{% endif %}',
        '{% if how == "free" %}Nothing is charged for it.{% endif %} {% if how != "free" %}The first payment is {{ amount }} on {{ next }}.{% endif %} {% if how == "no card" %}We have no card of yours yet, and write to you before the trial ends.{% endif %} {% if how == "asked for" %}It is charged once you have given us a card: we have written to you about that.{% endif %} {% if how == "by hand" %}You pay by hand: we send you an invoice.{% endif %} {% if how == "automatic" %}We will charge {{ charged }} and send you a receipt each time.{% endif %}',
      ],
    },
    'trial ending': {
      subject: 'Your trial of {{ plan }} ends on {{ date }}',
      paragraphs: [
        'Your trial of {{ plan }} ends on {{ date }}.',
        '{% if how == "by hand" %}If you go on, you get an invoice of {{ amount }}, to be paid by {{ next }}.{% endif %} {% if how != "by hand" %}If you go on, the first payment of {{ amount }} is charged to {{ charged }} on {{ next }}. You need not do anything.{% endif %} If you would rather not, cancel before that day on your own page.',
        CANCELLING,
      ],
      link: 'Look at it, or cancel',
    },
    'trial without a card': {
      subject: 'Your trial of {{ plan }} ends on {{ date }}',
      paragraphs: [
        'Your trial of {{ plan }} ends on {{ date }}, and we have no card of yours.',
        '{{ reason }}',
        'To go on, give us a card on your own page. The first payment would be {{ amount }} on {{ next }}.',
        CANCELLING,
      ],
      link: 'Give a card',
    },
    'renewal coming': {
      subject: '{{ plan }} renews on {{ date }}',
      paragraphs: [
        'Your subscription to {{ plan }} renews on {{ date }}: {{ amount }}. {{ next }}',
        'You can look at it, or change what you like, on your own page.',
      ],
      link: OWN_PAGE,
    },
    receipt: {
      subject: 'Receipt for {{ amount }}: {{ plan }}',
      paragraphs: [
        '{% if how == "by hand" %}Thank you. {{ amount }} reached us on {{ date }}, by {{ reason }}.{% endif %} {% if how == "transfer" %}Thank you. Your online transfer of {{ amount }} reached us on {{ date }}.{% endif %} {% if how == "automatic" %}Thank you. We have charged {{ amount }} to {{ charged }} on {{ date }}.{% endif %}',
        'Invoice {{ invoice }}, {{ plan }}, {{ period }}. {% if how != "by hand" %}It will show as "{{ reason }}" on your statement.{% endif %}',
      ],
    },
    'confirm payment': {
      subject: 'Please confirm your payment of {{ amount }} for {{ plan }}',
      paragraphs: [
        'We are charging {{ amount }} for {{ plan }}, {{ period }}, to {{ charged }}, and your bank asks you to confirm it.',
        'Please do so on your own page by {{ date }}: you are sent on to your bank, and it takes a minute. Nothing is charged before that.',
      ],
      link: 'Confirm the payment',
    },
    'payment declined': {
      subject: 'Your payment for {{ plan }} did not go through',
      paragraphs: [
        'We tried to charge {{ amount }} for {{ plan }} to {{ charged }} and it was declined: {{ reason }}.',
        '{{ next }}',
        `${PAY_OR_CHANGE} Nothing else changes.`,
      ],
      link: 'Pay or change the card',
    },
    'payment still declined': {
      subject: '{{ plan }}: {{ amount }} is still unpaid',
      paragraphs: [
        'Your payment of {{ amount }} for {{ plan }} has still not gone through: {{ reason }}.',
        '{{ next }}',
        PAY_OR_CHANGE,
      ],
      link: 'Pay or change the card',
    },
    'last reminder': {
      subject: 'Last reminder: {{ plan }} stops on {{ date }}',
      paragraphs: [
        'Your payment of {{ amount }} for {{ plan }} has not gone through: {{ reason }}.',
        'Unless it is paid before then, your subscription stops on {{ date }}. We would be sorry to see that.',
        PAY_OR_CHANGE,
      ],
      link: 'Pay or change the card',
    },
    lapsed: {
      subject: 'Your subscription to {{ plan }} has stopped',
      paragraphs: [
        'We could not collect {{ amount }} for {{ plan }}, so your subscription has stopped on {{ date }}.',
        'No further payments will be tried. The open amount can still be paid on your own page; write to us if you would like to start again.',
      ],
      link: 'See what is open',
    },
    'card expiring': {
      subject: 'Your card {{ card }} expires on {{ date }}',
      paragraphs: [
        'The card that pays for {{ plan }}, {{ card }}, is good until {{ date }}. {{ next }}',
        'If your bank has sent you a new one, please give it on your own page: it takes a minute, and nothing is charged before it is due. Some banks tell us of the new card by themselves; then we go on with it.',
      ],
      link: 'Give the new card',
    },
    'card replaced': {
      subject:
        'Your {% if how == "card" %}card{% endif %} {% if how == "bank account" %}bank account{% endif %} for {{ plan }} has been changed',
      paragraphs: [
        'From now on we charge {{ charged }} for {{ plan }}.',
        'If you did not ask for this, please write to us at once.',
      ],
    },
    'terms changing': {
      subject: '{{ plan }} changes on {{ date }}',
      paragraphs: [
        'From {{ date }} your subscription to {{ plan }} is {{ amount }}. Until then nothing changes.',
        'The first payment under the new terms is {{ reason }} on {{ next }}.',
        'If you would rather not go on, write to us before that day.',
      ],
    },
    'subscription altered': {
      subject: '{{ plan }}: {{ reason }}',
      paragraphs: ['This is to say that {{ reason }}.', '{{ next }}', NOT_ASKED],
      link: OWN_PAGE,
    },
    cancelled: {
      subject: 'Your subscription to {{ plan }} ends on {{ date }}',
      paragraphs: [
        'Your subscription to {{ plan }} is cancelled and ends on {{ date }}. {{ next }}',
        NOT_ASKED,
      ],
      link: OWN_PAGE,
    },
    'mandate request': {
      subject:
        '{% if how == "again" %}Reminder: a{% endif %} {% if how == "first" %}A{% endif %} way to pay for {{ plan }}',
      paragraphs: [
        '{% if how == "again" %}On {{ date }} we asked you for a card to pay for {{ plan }}, and we have none yet.{% endif %} {% if how == "first" %}To pay for {{ plan }}, please give us a card on your own page. It takes a minute.{% endif %}',
        '{% if owed %}{{ owed }} is open and is charged to the card when you give it. {% endif %} {% if amount %}The next payment is {{ amount }} on {{ next }}.{% endif %}',
        'The number of the card goes straight to our payment service: we never see it. By giving it you authorise us to charge what your subscriptions come to, on the dates that they name, until you withdraw that.',
      ],
      link: 'Give a card',
    },
    'mandate confirmed': {
      subject: 'Thank you: we have {{ charged }}',
      paragraphs: [
        'On {{ date }} you gave us {{ charged }} and agreed to this: "{{ reason }}"',
        'If you did not do this, please write to us at once.',
      ],
      link: OWN_PAGE,
    },
    'mandate withdrawn': {
      subject: 'From now on {{ charged }} is charged no more',
      paragraphs: [
        'On {{ date }} your authority to charge {{ charged }} was withdrawn: we do not charge it any more. {% if next %}{{ next }}{% endif %}',
        NOT_ASKED,
      ],
    },
    'invoice to pay': {
      subject:
        'Invoice {{ invoice }} for {{ plan }}: {{ amount }}{% if next %} in parts, the first{% endif %} by {{ date }}',
      paragraphs: [
        'Here is invoice {{ invoice }} for {{ plan }}, {{ period }}: {{ amount }}{% unless next %}, to be paid by {{ date }}{% endunless %}. {% if next %}{{ next }}{% endif %}',
        'Nothing is charged by itself: you can pay on your own page.',
      ],
      link: 'Pay this invoice',
    },
    'invoice in parts': {
      subject: 'Invoice {{ invoice }} for {{ plan }}: in parts',
      paragraphs: [
        'What is open of invoice {{ invoice }} for {{ plan }}, {{ amount }}, is to be paid in parts: {{ period }}. {{ next }}',
      ],
      link: OWN_PAGE,
    },
    'part due': {
      subject: '{{ plan }}: {{ amount }} by {{ date }}',
      paragraphs: [
        'Of invoice {{ invoice }} for {{ plan }}, {{ period }} is due on {{ date }}: {{ amount }}.',
        '{{ next }}',
      ],
      link: OWN_PAGE,
    },
    'invoice reminder': {
      subject: 'Invoice {{ invoice }} for {{ plan }}: {{ amount }} by {{ date }}',
      paragraphs: [
        'This is to remind you of invoice {{ invoice }} for {{ plan }}, {{ period }}: {{ amount }} is to be paid by {{ date }}.',
        'If it is on its way already, there is nothing more to do. Otherwise you can pay on your own page.',
      ],
      link: 'Pay this invoice',
    },
    'invoice overdue': {
      subject: '{{ plan }}: {{ amount }} is still unpaid',
      paragraphs: ['{{ amount }} for {{ plan }} was due and has not reached us yet.', '{{ next }}'],
      link: 'Pay what is open',
    },
    'credit note': {
      subject: 'Credit note {{ words }}: {{ amount }} of invoice {{ invoice }}',
      paragraphs: [
        'We have credited {{ amount }} of invoice {{ invoice }}: {{ reason }}',
        '{% if next %}{{ next }}{% endif %}',
      ],
      link: OWN_PAGE,
    },
    refund: {
      subject: '{{ amount }} is paid back to you',
      paragraphs: [
        '{% if how == "by hand" %}We have paid {{ amount }} back to you on {{ date }}, by {{ period }}.{% endif %} {% if how == "automatic" %}We have paid {{ amount }} back to {{ charged }} on {{ date }}. It shows there within a few days.{% endif %}',
        'Why: {{ reason }}',
      ],
      link: OWN_PAGE,
    },
    ended: {
      subject: 'Your subscription to {{ plan }} is complete',
      paragraphs: [
        'Your subscription to {{ plan }} has run its full course and ended on {{ date }}. Thank you.',
        '{% if amount %}{{ amount }} of what you paid was not used up. It is kept to your credit: write to us to have it paid back.{% endif %}',
      ],
    },
  },
  sentences: {
    'pay on own page': () => 'Nothing is charged by itself: you can pay on your own page.',
    'try again on': ({ date }) => `We try the card again on ${date}.`,
    'cannot try again': () =>
      'We cannot try this card again until you have given us another or had it mended.',
    'can be paid': () => 'It can be paid on your own page.',
    'service stopped': () => 'The service is stopped until it is paid.',
    'invoice unpaid': () => 'the invoice has not been paid',
    'no card to charge': () => 'there is no card to charge',
    'still goes through': ({ date }) =>
      `The next payment, on ${date}, still goes through; those after it will not.`,
    'would not go through': ({ date }) => `The next payment is charged on ${date}, and would not go through.`,
    'invoice follows': ({ date }) => `You will get an invoice, to be paid by ${date}.`,
    'is charged on': ({ charged, date }) => `It is charged to ${charged} on ${date}.`,
    'charged that day': ({ charged }) => `It is charged to ${charged} on that day.`,
    'each charged by itself': () => 'Each is charged by itself on its day.',
    'in parts': ({ count, parts }) => `It is paid in ${count} parts: ${parts}.`,
    'amount by': ({ amount, date }) => `${amount} by ${date}`,
    'amount on': ({ amount, date }) => `${amount} on ${date}`,
    'part of': ({ place, parts }) => `part ${place} of ${parts}`,
    'next payment': ({ amount, date }) => `The next payment is ${amount} on ${date}.`,
    'nothing more': () => 'Nothing more will be charged.',
    'left as credit': ({ amount }) => `${amount} of what was paid is not used up and is kept as credit.`,
    'not to be paid': ({ amount }) => `${amount} of the invoice is not to be paid any more.`,
    'your credit': ({ amount }) => `${amount} is your credit: the next due uses it first.`,
    'not charged until': ({ plans }) => `Until you give us another, nothing is charged for ${plans}.`,
    'without card end': () => 'Without one, it simply ends then, and nothing is charged.',
    'without card pause': () =>
      'Without one, it rests from then on, and goes on from the day you give us one.',
    'without card invoice': () => 'Without one, we send you invoices, which you pay by hand.',
    'without card wait': () => 'Until you give us one, your payments wait.',
    'whole on own page': () => 'The whole text is on your own page.',
    'by transfer': () => 'bank transfer',
    'in cash': () => 'cash',
    'by cheque': () => 'cheque',
    'another way': () => 'another way',
    nothing: () => 'nothing',
    altered: ({ says }) => says,
    agreedCard: ({ business }) => PAGE.agreedCard(business),
  },
  // In English they are said as staff read them.
  declines: null,
  and: 'and',
  fromTo: ({ from, to }) => `${from} to ${to}`,
  card: ({ network, lastFour }) => `${network} ending ${lastFour}`,
  bankAccount: ({ lastFour }) => `Bank account ending ${lastFour}`,
  transfer: 'Online transfer',
  yourCard: ({ card }) => `your card ${card}`,
  yourBankAccount: ({ lastFour }) => `your bank account ending ${lastFour}`,
  yourTransfer: 'your online transfer',
  yourCardOnFile: 'your card on file',
  onFile: 'on file',
  unsubscribe: 'You need not get letters like this one: stop them here',
};
