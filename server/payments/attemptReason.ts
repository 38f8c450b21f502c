/** What an attempt at a payment was made for. */
export type AttemptReason = 'renewal' | 'retry' | 'new method' | 'by the customer';
