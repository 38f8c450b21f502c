/** How an invoice stands after it was tried. */
export const OUTCOMES = [
  'collected',
  'declined',
  /** It was declined, and another method is tried in its turn. */
  'next method',
  /** It was sent and its outcome is not known yet. */
  'under way',
  /** Its cardholder is to confirm it, and was written to. */
  'waits for the cardholder',
  /** Its gateway account cannot be asked: nothing has been decided. */
  'waits for its gateway',
  /** The gateway would not take the request: a person sees to it, and nobody's card is to blame. */
  'refused',
  'nothing to collect',
  'no usable card',
  'waits for the customer',
  'too many attempts',
] as const;
export type Collected = (typeof OUTCOMES)[number];

/**
 * What an outcome is to a case: `answered` by the bank; `not tried`, because nothing may or need be; or `waits`: it has
 * none that a ladder may go by, so that no rung is climbed and nobody is written to.
 */
export function weighOutcome(outcome: Collected): 'answered' | 'not tried' | 'waits' {
  switch (outcome) {
    case 'collected':
    case 'declined':
      return 'answered';
    case 'nothing to collect':
    case 'no usable card':
    case 'waits for the customer':
    case 'too many attempts':
      return 'not tried';
    case 'next method':
    case 'under way':
    case 'waits for the cardholder':
    case 'waits for its gateway':
    case 'refused':
      return 'waits';
  }
}
