/** How recurring revenue moved between two days, in minor units: opening plus all of these is closing. */
export interface Movements {
  readonly opening: bigint;
  readonly new: bigint;
  readonly more: bigint;
  readonly less: bigint;
  readonly lost: bigint;
  readonly back: bigint;
  readonly closing: bigint;
}

/** The monthly value of one subscription on two days, and whether it ever had one before the first of them. */
export interface ValueOnTwoDays {
  readonly before: bigint;
  readonly after: bigint;
  readonly hadValueEarlier: boolean;
}

/**
 * Sorts the movements of many subscriptions of one currency between two days (rules 9).
 * @example from 0 to 10.00 it is new, or back if it was worth something once; from 10.00 to 0 it is lost
 */
export function movements(subscriptions: Iterable<ValueOnTwoDays>): Movements {
  const sums = { opening: 0n, new: 0n, more: 0n, less: 0n, lost: 0n, back: 0n, closing: 0n };
  for (const { before, after, hadValueEarlier } of subscriptions) {
    sums.opening += before;
    sums.closing += after;
    const moved = after - before;
    if (moved === 0n) continue;
    if (before === 0n) sums[hadValueEarlier ? 'back' : 'new'] += moved;
    else if (after === 0n) sums.lost += moved;
    else sums[moved > 0n ? 'more' : 'less'] += moved;
  }
  return sums;
}
