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

const write = (afterDays: number): Rung => ({ afterDays, retry: false, letter: true });
const retryAndWrite = (afterDays: number): Rung => ({ afterDays, retry: true, letter: true });
const retryAlone = (afterDays: number): Rung => ({ afterDays, retry: true, letter: false });

/** Ladders to start from. Each writes on the day of the failure, and leaves days between its last letter and the end. */
export const STARTING_LADDERS = {
  steady: {
    name: 'Steady',
    says: 'Letters on days 0, 3, 7 and 12, retries on days 3, 7 and 12; the end on day 14.',
    rungs: [write(0), retryAndWrite(3), retryAndWrite(7), retryAndWrite(12)],
    finalAfterDays: 14,
  },
  brisk: {
    name: 'Brisk',
    says: 'Letters on days 0, 2 and 5, retries on days 1, 2, 4 and 5; the end on day 7.',
    rungs: [write(0), retryAlone(1), retryAndWrite(2), retryAlone(4), retryAndWrite(5)],
    finalAfterDays: 7,
  },
  patient: {
    name: 'Patient',
    says: 'Letters on days 0, 5, 12, 21 and 28, retries on days 5, 12, 21 and 28; the end on day 35.',
    rungs: [write(0), retryAndWrite(5), retryAndWrite(12), retryAndWrite(21), retryAndWrite(28)],
    finalAfterDays: 35,
  },
  letters: {
    name: 'Letters alone',
    says: 'Letters on days 0, 7 and 14 and no retries: the customer pays by the link; the end on day 21.',
    rungs: [write(0), write(7), write(14)],
    finalAfterDays: 21,
  },
} as const satisfies Record<
  string,
  { name: string; says: string; rungs: readonly Rung[]; finalAfterDays: number }
>;
export type StartingLadder = keyof typeof STARTING_LADDERS;

/** The ladder that a business begins with. */
export const DEFAULT_LADDER: LadderPolicy = { ...STARTING_LADDERS.steady, finalAction: 'lapse' };

/** At most so many attempts on one invoice in so many days, whatever a ladder says (engine, ladders). */
export const MOST_ATTEMPTS = { attempts: 15, days: 30 } as const;

/** Invoices that are paid by hand become a case so many days after they were due. */
export const BY_HAND_GRACE_DAYS = 3;

/** The day on which a rung is climbed, or the final action taken where the rungs are done. */
export function rungDay(ladder: LadderPolicy, opened: Day, rung: number): Day {
  return opened + (ladder.rungs[rung]?.afterDays ?? ladder.finalAfterDays);
}

/** Whether a rung of this case tries the same card again: a card only its holder can mend is left alone. */
export function mayRetry(rung: Rung, declineClass: DeclineClass): boolean {
  return rung.retry && (declineClass === 'wait' || declineClass === 'soon');
}
