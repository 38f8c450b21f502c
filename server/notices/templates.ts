/** The events on which a customer is written to in this version. */
export type LetterEvent =
  | 'started'
  | 'trial ending'
  | 'receipt'
  | 'confirm payment'
  | 'payment declined'
  | 'payment still declined'
  | 'last reminder'
  | 'lapsed'
  | 'card expiring'
  | 'card replaced'
  | 'terms changing'
  | 'subscription altered'
  | 'cancelled'
  | 'trial without a card'
  | 'mandate request'
  | 'mandate confirmed'
  | 'mandate withdrawn'
  | 'renewal coming'
  | 'invoice to pay'
  | 'part due'
  | 'invoice in parts'
  | 'invoice overdue'
  | 'invoice reminder'
  | 'credit note'
  | 'refund'
  | 'ended'
  | 'message';

/** Fields that a template may name. Amounts and dates are written out before they get here. */
export interface LetterFields {
  readonly business: string;
  readonly customer: string;
  readonly plan: string;
  readonly amount?: string;
  readonly invoice?: string;
  readonly card?: string;
  readonly date?: string;
  readonly period?: string;
  readonly reason?: string;
  readonly next?: string;
  /** What staff have written for this letter alone. */
  readonly words?: string;
  /** What is open already, where something is. */
  readonly owed?: string;
}

export interface Template {
  readonly subject: string;
  /** Paragraphs in Liquid; HTML is escaped where it is made. */
  readonly paragraphs: readonly string[];
  /** What the link to the customer's own page says, where the letter carries one. */
  readonly link?: string;
}

/** What is charged, or was paid with, as it follows 'your': 'card Larkfield ending 4242', 'bank account ending 0001'. */
const CHARGED =
  '{% if card contains "Bank account" %}{{ card | replace: "Bank", "bank" }}{% elsif card contains "Online transfer" %}online transfer{% else %}card {{ card }}{% endif %}';

/** The same without its number. */
const CHARGED_KIND = '{% if card contains "Bank account" %}bank account{% else %}card{% endif %}';

export const TEMPLATES: Readonly<Record<LetterEvent, Template>> = {
  message: {
    subject: 'A message from {{ business }}',
    paragraphs: ['{{ reason }}'],
    link: 'Read and answer it on your own page',
  },
  started: {
    subject: 'Welcome to {{ plan }}',
    paragraphs: [
      'Your subscription to {{ plan }} starts on {{ date }}.{% if words and words != "" %} {{ words }}{% endif %}',
      `{% if amount == "" %}Nothing is charged for it.{% else %}The first payment is {{ amount }} on {{ next }}. {% if reason == "no card" %}We have no card of yours yet, and write to you before the trial ends.{% elsif reason == "asked for" %}It is charged once you have given us a card: we have written to you about that.{% elsif reason == "by hand" %}You pay by hand: we send you an invoice.{% else %}We will charge your ${CHARGED} and send you a receipt each time.{% endif %}{% endif %}`,
    ],
  },
  'trial ending': {
    subject: 'Your trial of {{ plan }} ends on {{ date }}',
    paragraphs: [
      'Your trial of {{ plan }} ends on {{ date }}.',
      `{% if reason == "by hand" %}If you go on, you get an invoice of {{ amount }}, to be paid by {{ next }}.{% else %}If you go on, the first payment of {{ amount }} is charged to your ${CHARGED} on {{ next }}. You need not do anything.{% endif %}`,
    ],
  },
  receipt: {
    subject: 'Receipt for {{ amount }}: {{ plan }}',
    paragraphs: [
      `{% if card == "by hand" %}Thank you. {{ amount }} reached us on {{ date }}, by {{ reason }}.{% elsif card contains "Online transfer" %}Thank you. Your online transfer of {{ amount }} reached us on {{ date }}.{% else %}Thank you. We have charged {{ amount }} to your ${CHARGED} on {{ date }}.{% endif %}`,
      'Invoice {{ invoice }}, {{ plan }}, {{ period }}.{% unless card == "by hand" %} It will show as "{{ reason }}" on your statement.{% endunless %}',
    ],
  },
  'confirm payment': {
    subject: 'Please confirm your payment of {{ amount }} for {{ plan }}',
    paragraphs: [
      `We are charging {{ amount }} for {{ plan }}, {{ period }}, to your ${CHARGED}, and your bank asks you to confirm it.`,
      'Please do so on your own page by {{ date }}: you are sent on to your bank, and it takes a minute. Nothing is charged before that.',
    ],
    link: 'Confirm the payment',
  },
  'card expiring': {
    subject: 'Your card {{ card }} expires on {{ date }}',
    paragraphs: [
      'The card that pays for {{ plan }}, {{ card }}, is good until {{ date }}. {{ next }}',
      'If your bank has sent you a new one, please give it on your own page: it takes a minute, and nothing is charged before it is due. Some banks tell us of the new card by themselves; then we go on with it.',
    ],
    link: 'Give the new card',
  },
  'payment declined': {
    subject: 'Your payment for {{ plan }} did not go through',
    paragraphs: [
      `We tried to charge {{ amount }} for {{ plan }} to your ${CHARGED} and it was declined: {{ reason }}.`,
      '{{ next }}',
      'You can pay now or give us another card on your own page. Nothing else changes.',
    ],
    link: 'Pay or change the card',
  },
  'payment still declined': {
    subject: '{{ plan }}: {{ amount }} is still unpaid',
    paragraphs: [
      'Your payment of {{ amount }} for {{ plan }} has still not gone through: {{ reason }}.',
      '{{ next }}',
      'You can pay now or give us another card on your own page.',
    ],
    link: 'Pay or change the card',
  },
  'last reminder': {
    subject: 'Last reminder: {{ plan }} stops on {{ date }}',
    paragraphs: [
      'Your payment of {{ amount }} for {{ plan }} has not gone through: {{ reason }}.',
      'Unless it is paid before then, your subscription stops on {{ date }}. We would be sorry to see that.',
      'You can pay now or give us another card on your own page.',
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
  'card replaced': {
    subject: `Your ${CHARGED_KIND} for {{ plan }} has been changed`,
    paragraphs: [
      `From now on we charge your ${CHARGED} for {{ plan }}.`,
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
    paragraphs: [
      'This is to say that {{ reason }}.',
      '{{ next }}',
      'If you did not ask for this, please write to us.',
    ],
    link: 'Your own page',
  },
  cancelled: {
    subject: 'Your subscription to {{ plan }} ends on {{ date }}',
    paragraphs: [
      'Your subscription to {{ plan }} is cancelled and ends on {{ date }}. {{ next }}',
      'If you did not ask for this, please write to us.',
    ],
    link: 'Your own page',
  },
  'mandate request': {
    subject: '{% if reason == "again" %}Reminder: a{% else %}A{% endif %} way to pay for {{ plan }}',
    paragraphs: [
      '{% if reason == "again" %}On {{ date }} we asked you for a card to pay for {{ plan }}, and we have none yet.{% else %}To pay for {{ plan }}, please give us a card on your own page. It takes a minute.{% endif %}',
      '{% if owed != "" %}{{ owed }} is open and is charged to the card when you give it. {% endif %}{% if amount != "" %}The next payment is {{ amount }} on {{ next }}.{% endif %}',
      'The number of the card goes straight to our payment service: we never see it. By giving it you authorise us to charge what your subscriptions come to, on the dates that they name, until you withdraw that.',
    ],
    link: 'Give a card',
  },
  'mandate confirmed': {
    subject: `Thank you: we have your ${CHARGED}`,
    paragraphs: [
      `On {{ date }} you gave us your ${CHARGED} and agreed to this: "{{ reason }}"`,
      'If you did not do this, please write to us at once.',
    ],
    link: 'Your own page',
  },
  'mandate withdrawn': {
    subject: `Your ${CHARGED} is charged no more`,
    paragraphs: [
      `On {{ date }} your authority to charge your ${CHARGED} was withdrawn: we do not charge it any more. {{ next }}`,
      'If you did not ask for this, please write to us.',
    ],
  },
  'trial without a card': {
    subject: 'Your trial of {{ plan }} ends on {{ date }}',
    paragraphs: [
      'Your trial of {{ plan }} ends on {{ date }}, and we have no card of yours.',
      '{{ reason }}',
      'To go on, give us a card on your own page. The first payment would be {{ amount }} on {{ next }}.',
    ],
    link: 'Give a card',
  },
  'renewal coming': {
    subject: '{{ plan }} renews on {{ date }}',
    paragraphs: [
      'Your subscription to {{ plan }} renews on {{ date }}: {{ amount }}. {{ next }}',
      'You can look at it, or change what you like, on your own page.',
    ],
    link: 'Your own page',
  },
  'invoice to pay': {
    subject:
      'Invoice {{ invoice }} for {{ plan }}: {{ amount }}{% if next %} in parts, the first{% endif %} by {{ date }}',
    paragraphs: [
      'Here is invoice {{ invoice }} for {{ plan }}, {{ period }}: {{ amount }}{% if next %}. {{ next }}{% else %}, to be paid by {{ date }}.{% endif %}',
      'Nothing is charged by itself: you can pay on your own page.',
    ],
    link: 'Pay this invoice',
  },
  'invoice reminder': {
    subject: 'Invoice {{ invoice }} for {{ plan }}: {{ amount }} by {{ date }}',
    paragraphs: [
      'This is to remind you of invoice {{ invoice }} for {{ plan }}, {{ period }}: {{ amount }} is to be paid by {{ date }}.',
      'If it is on its way already, there is nothing more to do. Otherwise you can pay on your own page.',
    ],
    link: 'Pay this invoice',
  },
  'credit note': {
    subject: 'Credit note {{ words }}: {{ amount }} of invoice {{ invoice }}',
    paragraphs: ['We have credited {{ amount }} of invoice {{ invoice }}: {{ reason }}', '{{ next }}'],
    link: 'Your own page',
  },
  refund: {
    subject: '{{ amount }} is paid back to you',
    paragraphs: [
      `{% if card == "by hand" %}We have paid {{ amount }} back to you on {{ date }}, by {{ period }}.{% else %}We have paid {{ amount }} back to your ${CHARGED} on {{ date }}. It shows there within a few days.{% endif %}`,
      'Why: {{ reason }}',
    ],
    link: 'Your own page',
  },
  'invoice in parts': {
    subject: 'Invoice {{ invoice }} for {{ plan }}: in parts',
    paragraphs: [
      'What is open of invoice {{ invoice }} for {{ plan }}, {{ amount }}, is to be paid in parts: {{ period }}. {{ next }}',
    ],
    link: 'Your own page',
  },
  'part due': {
    subject: '{{ plan }}: {{ amount }} by {{ date }}',
    paragraphs: [
      'Of invoice {{ invoice }} for {{ plan }}, {{ period }} is due on {{ date }}: {{ amount }}.',
      '{{ next }}',
    ],
    link: 'Your own page',
  },
  'invoice overdue': {
    subject: '{{ plan }}: {{ amount }} is still unpaid',
    paragraphs: ['{{ amount }} for {{ plan }} was due and has not reached us yet.', '{{ next }}'],
    link: 'Pay what is open',
  },
  ended: {
    subject: 'Your subscription to {{ plan }} is complete',
    paragraphs: [
      'Your subscription to {{ plan }} has run its full course and ended on {{ date }}. Thank you.',
      '{% if amount %}{{ amount }} of what you paid was not used up. It is kept to your credit: write to us to have it paid back.{% endif %}',
    ],
  },
};
