import type { Day } from '../dates/day.ts';
import type { LadderPolicy } from '../recovery/ladder.ts';
import type { DeclineClass } from '../recovery/declineCodes.ts';

/** A payment that failed, and what became of it. */
export interface PastDecline {
  readonly failedOn: Day;
  readonly declineClass: DeclineClass;
  /** What was owed, in minor units of the home currency. */
  readonly amount: number;
  /** The days on which the customer was written to about it, ascending. */
  readonly lettersOn: readonly Day[];
  /** The day on which it was over, or until which it is known that nothing was paid. */
  readonly overOn: Day;
  readonly outcome: PastOutcome;
  /** The ladder that it began to climb, by its place in {@link PastRecovery.ladders}. */
  readonly ladder: number;
}

/**
 * By what it was over: a retry was paid; the customer mended it (paid by the link or by hand, or gave another card that was
 * charged); nothing was, to the end of its ladder; or it is open, or was over for a reason that says nothing of either.
 */
export type PastOutcome = 'retried' | 'mended' | 'given up' | 'not known';

/** A card that was tried again. */
export interface PastRetry {
  readonly on: Day;
  readonly declineClass: DeclineClass;
  /** Whole days since the payment failed. */
  readonly daysSince: number;
  /** Which retry of its case it was; 1 the first. */
  readonly retry: number;
  readonly collected: boolean;
}

/** What a business has lived through of failed payments. */
export interface PastRecovery {
  readonly declines: readonly PastDecline[];
  readonly retries: readonly PastRetry[];
  readonly ladders: readonly LadderPolicy[];
}
