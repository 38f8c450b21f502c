import { toDay } from '../dates/day.ts';
import { addDuration, parseDuration } from '../dates/duration.ts';

/** A longer trial's end is told of so many days before. */
const USUAL_DAYS = 7;

/**
 * So many days before a trial ends it is told of: as the rate says, or usually a week, and half the trial where that is
 * no longer; never later than the customer's country asks for. A notice as long as the trial is given on its first day.
 * @param of lengths in whole days; `asked` by the rate and `required` by the country, null where they say nothing
 * @example trialNoticeDays({ trialDays: 7, asked: null, required: null }) // 3
 */
export function trialNoticeDays(of: {
  readonly trialDays: number;
  readonly asked: number | null;
  readonly required: number | null;
}): number {
  const { trialDays, asked, required } = of;
  const usual = trialDays > USUAL_DAYS ? USUAL_DAYS : Math.max(1, Math.floor(trialDays / 2));
  return Math.min(trialDays, Math.max(asked ?? usual, required ?? 0));
}

/** A month is never shorter than the one that begins on this day. */
const SHORTEST_MONTH = toDay('2027-02-01');

/** The days of a trial of a length (ISO 8601), at the least; null where that is no length. */
export function shortestTrialDays(length: string): number | null {
  const duration = parseDuration(length);
  return duration && addDuration(SHORTEST_MONTH, duration) - SHORTEST_MONTH;
}
