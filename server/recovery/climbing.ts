import type { Subscription } from '../subscriptions/Subscription.ts';
import type { Ladder } from './Ladder.ts';
import type { RecoveryCase } from './RecoveryCase.ts';

/** A case with what it is climbed by, locked: the customer, the subscription and the case, in this order. */
export interface Climbing {
  readonly opened: RecoveryCase;
  readonly subscription: Subscription;
  readonly ladder: Ladder;
  readonly businessDate: string;
}
