import { formatDay, type Day } from '../dates/day.ts';
import { addDuration, type Duration } from '../dates/duration.ts';
import { shareAmount } from './sharing.ts';

/** A dated part of a sum: its day, `YYYY-MM-DD`, and how much, in minor units. */
export interface DatedPart {
  readonly dueOn: string;
  readonly amount: bigint;
}

/**
 * A sum in equal parts, each so long after the one before: to the minor unit and without loss, the earlier parts larger by
 * one where it does not come out even (rules 5).
 * @param parts how many, at least 1 and at most as many as the sum has minor units
 * @example inParts(10000n, 3, toDay('2027-01-31'), { count: 1, unit: 'M' })
 * // 33.34 on 31 January, 33.33 on 28 February, 33.33 on 31 March
 */
export function inParts(sum: bigint, parts: number, first: Day, every: Duration): DatedPart[] {
  const shares = shareAmount(
    sum,
    Array.from({ length: parts }, () => sum),
  );
  return shares.map((amount, i) => ({ amount, dueOn: formatDay(addDuration(first, every, i)) }));
}
