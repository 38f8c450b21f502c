import { DECLINE_CLASSES, type DeclineClass } from './declineCodes.ts';

/** One step of a ladder, counted in days after the failure that opened the case. */
export interface Rung {
  /** Whole days, 0 to {@link MOST_DAYS}. */
  readonly afterDays: number;
  readonly retry: boolean;
  readonly letter: boolean;
  /** The classes of decline that it is climbed for; absent: all of them. */
  readonly classes?: readonly DeclineClass[];
  /** Whether staff are told when it is climbed. */
  readonly tellsStaff?: boolean;
  /** What else is done: the service is stopped until it is paid, or a person is given something to do. */
  readonly acts?: RungAct;
}

export type RungAct = { readonly kind: 'pause' } | { readonly kind: 'task'; readonly says: string };

export type FinalAction = 'lapse' | 'end' | 'lapse and write off' | 'leave';

/** When the retries of a ladder are made, beyond the days of its rungs. */
export interface RetryManner {
  /**
   * After so many hours each, ascending, a bank or network that is away is asked again, before the next rung. Where a day
   * of practice knows no hours, it is asked once, on the next day.
   */
  readonly soonHours: readonly number[];
  /** No retry before this hour of the business's day, 0 to 23. */
  readonly fromHour: number;
  /** Days of the month, 1 to 31, on which people are paid; 31 is the last of every month. None: retries wait for none. */
  readonly payDays: readonly number[];
  /** A retry for want of money waits for a pay-day that comes within so many days. */
  readonly payDayWithin: number;
  /** Retries are made on working days alone. */
  readonly workingDays: boolean;
}

export const USUAL_MANNER: RetryManner = {
  ...{ soonHours: [2, 8], fromHour: 0, payDays: [], payDayWithin: 3, workingDays: false },
};

/** The policy of a case: what is done for it, and when. */
export interface LadderPolicy {
  /** By their days, ascending. */
  readonly rungs: readonly Rung[];
  readonly finalAction: FinalAction;
  /** Days after the failure on which the final action is taken: after the last rung. */
  readonly finalAfterDays: number;
  readonly manner: RetryManner;
}

/** A ladder has at most so many rungs, over at most so many days. */
export const MOST_RUNGS = 30;
export const MOST_DAYS = 365;

/** At most so many attempts on one invoice in so many days, whatever a ladder says (engine, ladders). */
export const MOST_ATTEMPTS = { attempts: 15, days: 30 } as const;

/** Invoices that are paid by hand become a case so many days after they were due. */
export const BY_HAND_GRACE_DAYS = 3;

/** Whether a rung is climbed for a class of decline. */
export function serves({ classes }: Pick<Rung, 'classes'>, declineClass: DeclineClass): boolean {
  return classes === undefined || classes.includes(declineClass);
}

/** Whether a card may be charged again after a decline of a class: one that only its holder can mend is left alone. */
export function isTriable(declineClass: DeclineClass): boolean {
  return declineClass === 'wait' || declineClass === 'soon';
}

/** Whether a rung of a case tries the same card again. */
export function mayRetry(rung: Rung, declineClass: DeclineClass): boolean {
  return rung.retry && isTriable(declineClass) && serves(rung, declineClass);
}

/** The classes that a rung is climbed for, in their order. */
export function classesOf({ classes }: Pick<Rung, 'classes'>): readonly DeclineClass[] {
  return classes === undefined ? DECLINE_CLASSES : DECLINE_CLASSES.filter((one) => classes.includes(one));
}
