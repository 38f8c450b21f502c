import { civilOf, type Day } from '../core/dates/day.ts';
import type { DeclineClass } from '../core/recovery/declineCodes.ts';
import type { Climbed } from '../core/recovery/stepOfCase.ts';
import { FIRST_MEND, courseFrom } from '../core/whatIf/course.ts';
import type { PastDecline, PastOutcome, PastRecovery, PastRetry } from '../core/whatIf/history.ts';
import type { Chance } from '../core/whatIf/chance.ts';

/** How payments and people of a made-up business behave. */
export interface Truth {
  /** The chance that a retry is paid. */
  readonly retry: (on: Day, declineClass: DeclineClass) => number;
  /** The chance that the customer mends it on a day; null: before any letter. */
  readonly mend: (sinceLetter: number | null, declineClass: DeclineClass) => number;
}

/** There is money in accounts from the 25th to the 3rd; a bank that was away is back; a letter helps for three days. */
export const AROUND_PAY_DAY: Truth = {
  retry: (on, declineClass) => {
    if (declineClass === 'soon') return 0.85;
    const { date } = civilOf(on);
    return date >= 25 || date <= 3 ? 0.6 : 0.12;
  },
  mend: (sinceLetter, declineClass) =>
    (sinceLetter === null ? 0.005 : sinceLetter <= 2 ? 0.08 : 0.01) * (declineClass === 'ask' ? 1.5 : 1),
};

const CLASSES: readonly (readonly [DeclineClass, number])[] = [
  ['wait', 0.6],
  ['soon', 0.15],
  ['ask', 0.18],
  ['never', 1],
];

/** Payments that fail on days of two years, and what becomes of them on a ladder where the truth is so. */
export function playPast(
  { count, from, days }: { readonly count: number; readonly from: Day; readonly days: number },
  climbed: Climbed,
  truth: Truth,
  chance: Chance,
): PastRecovery & { readonly money: number } {
  const declines: PastDecline[] = [];
  const retries: PastRetry[] = [];
  let money = 0;
  for (let i = 0; i < count; i += 1) {
    const failedOn = from + Math.floor(chance.uniform() * days);
    let pick = chance.uniform();
    const declineClass = CLASSES.find(([, share]) => (pick -= share) < 0)?.[0] ?? 'never';
    const amount = 500 + Math.floor(chance.uniform() * 5000);
    const past = playOne({ failedOn, declineClass, amount }, climbed, truth, chance);
    declines.push(past.decline);
    retries.push(...past.retries);
    if (past.decline.outcome !== 'given up') money += amount;
  }
  return { declines, retries, ladders: [climbed.ladder], money };
}

function playOne(
  { failedOn, declineClass, amount }: Pick<PastDecline, 'failedOn' | 'declineClass' | 'amount'>,
  climbed: Climbed,
  truth: Truth,
  chance: Chance,
): { decline: PastDecline; retries: PastRetry[] } {
  const course = courseFrom(climbed, declineClass, failedOn);
  const retries: PastRetry[] = [];
  const lettersOn: Day[] = [];
  const over = (day: number, outcome: PastOutcome) => ({
    decline: { failedOn, declineClass, amount, lettersOn, overOn: failedOn + day, outcome, ladder: 0 },
    retries,
  });
  for (const [i, cell] of course.cells.entries()) {
    const daysSince = course.days[i] ?? 0;
    const on = failedOn + daysSince;
    if (cell < FIRST_MEND) {
      const collected = chance.uniform() < truth.retry(on, declineClass);
      retries.push({ on, declineClass, daysSince, retry: course.retries[i] ?? 1, collected });
      if (collected) return over(daysSince, 'retried');
    } else {
      while (lettersOn.length < (course.letters[i] ?? 0)) lettersOn.push(on);
      const last = lettersOn.at(-1);
      const sinceLetter = last === undefined ? null : on - last;
      if (chance.uniform() < truth.mend(sinceLetter, declineClass)) return over(daysSince, 'mended');
    }
  }
  return over(course.ends, 'given up');
}
