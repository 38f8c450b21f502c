/**
 * Pending: its outcome is not known; it may wait for its gateway account. Refused: the gateway would not take the
 * request, nobody's card is to blame. Withdrawn: it was never made and never will be, since its card was replaced.
 */
export type AttemptState = 'under way' | 'collected' | 'declined' | 'refused' | 'withdrawn';
