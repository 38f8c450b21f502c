import { meaningOf } from '../../core/recovery/declineCodes.ts';
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
