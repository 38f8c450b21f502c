import type { ContactLetters } from '../customers/contactKinds.ts';
import type { LetterEvent } from './templates.ts';

const PAYMENTS: readonly LetterEvent[] = [
  ...(['receipt', 'invoice to pay', 'part due', 'invoice in parts', 'invoice reminder'] as const),
  ...(['credit note', 'refund'] as const),
];
const REMINDERS: readonly LetterEvent[] = [
  ...(['payment declined', 'payment still declined', 'last reminder', 'invoice overdue', 'lapsed'] as const),
  ...(['mandate request', 'confirm payment'] as const),
];
/** What is between the customer and us alone, whoever else stands beside them. */
const PRIVATE: readonly LetterEvent[] = ['message'];

/** Which of a customer's contacts want a letter, by what they asked for; null: none of them gets it. */
export function wantedBy(event: LetterEvent): ContactLetters | null {
  if (PRIVATE.includes(event)) return null;
  if (PAYMENTS.includes(event)) return 'payments';
  return REMINDERS.includes(event) ? 'reminders' : 'subscription';
}
