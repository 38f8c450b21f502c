/** The letters that a contact may want, and what they are. */
export const CONTACT_LETTERS = {
  payments: 'invoices and receipts',
  reminders: 'reminders of what is unpaid',
  subscription: 'everything else about the subscription',
} as const;
export type ContactLetters = keyof typeof CONTACT_LETTERS;

/** What the line of time of a customer is made of. */
export const MOMENT_KINDS = {
  payment: 'payments',
  invoice: 'invoices',
  letter: 'letters',
  message: 'messages',
  change: 'changes',
  method: 'ways to pay',
  note: 'notes',
  need: 'what needed a person',
} as const;
export type MomentKind = keyof typeof MOMENT_KINDS;
