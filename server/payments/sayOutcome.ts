import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';
import { sayDate } from '../../core/words/date.ts';
import { lastDayToConfirm, NOT_CONFIRMED } from './unconfirmed.ts';
import type { AttemptState } from './states.ts';

/** How an attempt came out, in plain words. */
export function sayOutcome(
  state: AttemptState,
  code: string | null,
  expectedOn: string | null,
  waitsFor: 'cardholder' | null,
): string {
  switch (state) {
    case 'collected':
      return 'Collected';
    case 'under way':
      if (waitsFor !== null && expectedOn !== null)
        return `Waits until ${sayDate(lastDayToConfirm(expectedOn))} for the cardholder to confirm it`;
      return expectedOn === null
        ? 'The outcome is not known yet; the gateway is asked again'
        : `Submitted; the banks answer on ${sayDate(expectedOn)}`;
    case 'declined':
      if (waitsFor !== null && code === NOT_CONFIRMED)
        return 'Declined: the cardholder was asked to confirm the payment, and did not';
      return `Declined: ${meaningOf(code ?? '').says}`;
    case 'refused':
      return 'The gateway would not take the request; nothing was charged';
    case 'withdrawn':
      return 'Never made: the card was replaced before';
  }
}

/** How a charge by hand came out, in a sentence. */
export const SAY_COLLECTED: Readonly<Record<Collected, string>> = {
  collected: 'Collected.',
  declined: 'Declined again.',
  'next method': 'Declined; another card is tried in its turn.',
  'under way': 'Under way: the outcome is not known yet.',
  'waits for the cardholder': 'The cardholder is asked to confirm it.',
  'waits for its gateway': 'It waits: the gateway cannot be asked now.',
  refused: 'The gateway would not take it: a person sees to it.',
  'nothing to collect': 'Nothing is owed any more.',
  'no usable card': 'There is no card that can be charged.',
  'waits for the customer': 'It is paid by hand.',
  'too many attempts': 'Not tried: it was tried too often in these days.',
};
