/** What an attempt at a payment was made for. */
export type AttemptReason = 'renewal' | 'retry' | 'new method' | 'by the customer' | 'by staff';

/** Whether the run made it: then every method of the subscription is tried in its turn. */
export const isByItself = (reason: AttemptReason) => reason === 'renewal' || reason === 'retry';
