import type { Day } from '../dates/day.ts';
import type { DeclineClass } from './declineCodes.ts';

/** One step of a ladder, counted in days after the failure that opened the case. */
export interface Rung {
  readonly afterDays: number;
  readonly retry: boolean;
  readonly letter: boolean;
}

export type FinalAction = 'lapse' | 'end' | 'lapse and write off' | 'leave';

export interface LadderPolicy {
  readonly rungs: readonly Rung[];
  readonly finalAction: FinalAction;
  /** Days after the failure on which the final action is taken: after the last rung. */
  readonly finalAfterDays: number;
}

/**
 * A letter on the day of the failure, then retry and write on days 3, 7 and 12; the last letter leaves two
 * days before the subscription lapses.
 */
export const DEFAULT_LADDER: LadderPolicy = {
  rungs: [
    { afterDays: 0, retry: false, letter: true },
    { afterDays: 3, retry: true, letter: true },
    { afterDays: 7, retry: true, letter: true },
    { afterDays: 12, retry: true, letter: true },
  ],
  finalAction: 'lapse',
  finalAfterDays: 14,
};

/** At most so many attempts on one invoice in so many days, whatever a ladder says (engine, ladders). */
export const MOST_ATTEMPTS = { attempts: 15, days: 30 } as const;

/** The day on which a rung is climbed, or the final action taken where the rungs are done. */
export function rungDay(ladder: LadderPolicy, opened: Day, rung: number): Day {
  return opened + (ladder.rungs[rung]?.afterDays ?? ladder.finalAfterDays);
}

/** Whether a rung of this case tries the same card again: a card only its holder can mend is left alone. */
export function mayRetry(rung: Rung, declineClass: DeclineClass): boolean {
  return rung.retry && (declineClass === 'wait' || declineClass === 'soon');
}
