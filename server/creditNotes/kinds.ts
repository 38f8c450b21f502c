/**
 * What a credit note is for: a change of terms that gives back more than it charges, a correction of an invoice, or an invoice
 * that is withdrawn as a whole.
 */
export type CreditNoteKind = 'settlement' | 'correction' | 'withdrawal';
