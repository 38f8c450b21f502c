import type { Day } from '../dates/day.ts';
import type { Boundaries } from './boundaries.ts';

/**
 * The first boundary after a day, found by halving: boundaries ascend strictly, so no list of them is needed.
 * @param after the boundary given lies after this day, and is never this day itself
 * @example every month on day 31: after 31 January comes 28 February
 */
export function nextBoundary(boundaries: Boundaries, after: Day): Day {
  if (boundaries(0) > after) return boundaries(0);
  let past = 1;
  while (boundaries(past) <= after) past *= 2;
  let reached = Math.floor(past / 2);
  while (past - reached > 1) {
    const middle = Math.floor((past + reached) / 2);
    if (boundaries(middle) > after) past = middle;
    else reached = middle;
  }
  return boundaries(past);
}
