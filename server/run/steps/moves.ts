import { MOVES_DUE, takeMoves } from '../../plans/rateVersions.ts';
import { MOVES_TO_TELL, tellOfMove } from '../../plans/tellOfMoves.ts';
import type { Step } from '../step.ts';
import { firstPart, nobody } from './ofSubscription.ts';

/** Subscriptions that move to another version of their rate are on it from its day on. */
export const moveToVersions: Step = {
  name: 'moves to another version of a rate',
  due: MOVES_DUE,
  size: 1,
  subscriptionOf: nobody,
  one: ({ almanac, businessDate }) => takeMoves(almanac, businessDate),
};

/** Writes of changes of rates that come nearer. */
export const tellOfMoves: Step = {
  name: 'letters of changing rates',
  due: MOVES_TO_TELL,
  size: 50,
  subscriptionOf: firstPart,
  one: ({ almanac, businessDate }, item) => tellOfMove(almanac, item, businessDate),
};
