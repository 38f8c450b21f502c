import type { Transaction } from 'sequelize';
import { standingOf, type Dated } from './standing.ts';
import type { CancelledBy, EndedWhy, SubscriptionState } from './states.ts';
import type { Subscription } from './Subscription.ts';

/*
 * Every change of a subscription's state. The database holds that whoever has ended says why, and that nobody is ended
 * without: nobody else decides `state`, `endedWhy` or `closedOn`.
 */

/** How a subscription stands by its dates on a day, while it is not over. Its end is written by the endings of the day. */
function runningState(subscription: Dated, businessDate: string): SubscriptionState {
  const standing = standingOf(subscription, businessDate);
  return standing === 'ended' ? 'active' : standing;
}

/**
 * How a subscription stands that is brought up to a day by its dates: an overdue one stays so until its case is closed,
 * what is over stays over. It is written down with how far it was brought (`writeReached`).
 */
export function standsOn(
  subscription: Dated & Pick<Subscription, 'state'>,
  businessDate: string,
): SubscriptionState {
  if (isOver(subscription) || subscription.state === 'overdue') return subscription.state;
  return runningState(subscription, businessDate);
}

/** Whether it is over: ended, or lapsed. */
export function isOver({ state }: Pick<Subscription, 'state'>): boolean {
  return state === 'ended' || state === 'lapsed';
}

/** A debt of it has not been paid: a case is open. What is over stays over. */
export async function standOverdue(subscription: Subscription, within: Transaction): Promise<void> {
  if (!isOver(subscription)) await subscription.update({ state: 'overdue' }, { transaction: within });
}

/** No case of it is open any more: it is served again, and stands as its dates say. */
export async function standByDates(
  subscription: Subscription,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  if (subscription.serviceStoppedOn !== null)
    await subscription.update({ serviceStoppedOn: null }, { transaction: within });
  if (subscription.state !== 'overdue') return;
  await subscription.update({ state: runningState(subscription, businessDate) }, { transaction: within });
}

/** Its service is stopped while something is owed. Gives whether it ran. */
export async function stopServing(
  subscription: Subscription,
  businessDate: string,
  within: Transaction,
): Promise<boolean> {
  if (isOver(subscription) || subscription.serviceStoppedOn !== null) return false;
  await subscription.update({ serviceStoppedOn: businessDate }, { transaction: within });
  return true;
}

/** It rests. Who owes something stays overdue, and rests nevertheless. */
export async function standResting(subscription: Subscription, within: Transaction): Promise<void> {
  if (subscription.state === 'overdue' || isOver(subscription)) return;
  await subscription.update({ state: 'paused' }, { transaction: within });
}

/**
 * It is over, and why. Amounts agreed to for days after its end are still invoiced: it wakes for the next of them.
 * @param closedOn the first day that is not served
 */
export async function standEnded(
  subscription: Subscription,
  end: {
    readonly why: EndedWhy;
    readonly closedOn: string;
    readonly wakeOn?: string | null;
    readonly cancelledBy?: CancelledBy;
  },
  within: Transaction,
): Promise<void> {
  if (subscription.state === 'ended') return;
  const { why, closedOn, wakeOn = null, cancelledBy } = end;
  await subscription.update(
    {
      ...{ state: 'ended' as const, endedWhy: why, closedOn, wakeOn, endsOn: closedOn },
      ...(cancelledBy ? { cancelledBy } : {}),
    },
    { transaction: within },
  );
}

/** Recovery was given up and its invoices stay open: it is neither renewed nor ended until it is paid. */
export async function standLapsed(
  subscription: Subscription,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  if (isOver(subscription)) return;
  await subscription.update(
    { state: 'lapsed', wakeOn: null, closedOn: businessDate },
    { transaction: within },
  );
}

/** Why a subscription ends whose dates have come to their end. */
export function whyItEnds({ cancelledBy }: Pick<Subscription, 'cancelledBy'>): EndedWhy {
  switch (cancelledBy) {
    case 'customer':
      return 'cancelled by the customer';
    case 'business':
      return 'cancelled by the business';
    default:
      return 'completed';
  }
}
