import type { Day } from '../dates/day.ts';
import { dateInMonth, monthOf } from '../dates/month.ts';
import { toWorkingDay, type WorkingDays } from '../dates/workingDay.ts';
import type { DeclineClass } from './declineCodes.ts';
import { mayRetry, serves, type LadderPolicy, type RetryManner } from './ladder.ts';

/** The days on which the rungs that a class is climbed by come, and the final action. */
export interface LadderDays {
  /** In the order of the ladder, their days ascending; `rung` is its place there, from 0. */
  readonly rungs: readonly { readonly rung: number; readonly on: Day }[];
  readonly finalOn: Day;
}

/**
 * When a ladder is climbed for a case that is of one class from its first day on: the day of a rung is counted from the
 * failure; a retry for want of money waits for a pay-day near it, and, where the ladder says so, a retry for a working day.
 * No two rungs come on one day. The final action comes after all of them.
 * @param openedOn the day of the first failure
 */
export function ladderDays(
  ladder: LadderPolicy,
  openedOn: Day,
  declineClass: DeclineClass,
  calendar: WorkingDays,
): LadderDays {
  const served = ladder.rungs
    .map((rung, at) => ({ rung, at, retries: mayRetry(rung, declineClass) }))
    .filter(({ rung }) => serves(rung, declineClass));
  let after = openedOn - 1;
  const rungs = served.map(({ rung, at, retries }, place) => {
    const own = openedOn + rung.afterDays;
    const nextRetry = served.slice(place + 1).find((later) => later.retries)?.rung.afterDays;
    const before = openedOn + (nextRetry ?? ladder.finalAfterDays);
    const moved = retries ? retryDay(own, declineClass, before, ladder.manner, calendar) : own;
    after = Math.max(moved, after + 1);
    return { rung: at, on: after };
  });
  return { rungs, finalOn: Math.max(openedOn + ladder.finalAfterDays, after + 1) };
}

/** The day on which a retry is made that would come on `own`: a pay-day is waited for only where it lies before `before`. */
function retryDay(
  own: Day,
  declineClass: DeclineClass,
  before: Day,
  manner: RetryManner,
  calendar: WorkingDays,
): Day {
  const worked = (day: Day) => (manner.workingDays ? toWorkingDay(day, { ...calendar, shift: 'next' }) : day);
  if (declineClass === 'wait' && manner.payDays.length > 0) {
    const month = monthOf(own);
    const paid = [month, month + 1]
      .flatMap((index) => manner.payDays.map((date) => dateInMonth(index, date)))
      .filter((day) => day >= own)
      .map(worked);
    const first = Math.min(...paid);
    if (first - own <= manner.payDayWithin && first < before) return first;
  }
  return worked(own);
}
