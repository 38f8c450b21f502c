/** Minutes of a day, from midnight; 0 to 1439. */
export type MinuteOfDay = number;

const DAY = 1440;

/**
 * How many minutes a letter waits at a time of day so that nobody gets it in quiet hours: 0 outside of them. The
 * quiet hours begin at `from` and end before `to`, and may run over midnight.
 * @example at 23:10 with quiet hours from 21:00 to 08:00 a letter waits 530 minutes
 */
export function quietWait(now: MinuteOfDay, from: MinuteOfDay, to: MinuteOfDay): number {
  const length = (to - from + DAY) % DAY;
  const since = (now - from + DAY) % DAY;
  return since < length ? length - since : 0;
}

/** The minute of the day of a clock time such as `21:00`. */
export function minuteOf(clock: string): MinuteOfDay {
  const [hours = 0, minutes = 0] = clock.split(':').map(Number);
  return hours * 60 + minutes;
}
