import { formatDay, type Day } from '../../core/dates/day.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Subscription } from './Subscription.ts';
import type { SubscriptionState } from './states.ts';

/** What the standing of a subscription comes of, beside its debts. */
export type Dated = Pick<Subscription, 'terms' | 'startsOn' | 'trialEndsOn' | 'endsOn'>;

/** The state that a subscription's dates give it on a day, leaving aside debts: overdue and lapsed come of those. */
export function standingOf(subscription: Dated, businessDate: string): SubscriptionState {
  const { startsOn, trialEndsOn, endsOn, terms } = subscription;
  if (businessDate < startsOn) return 'scheduled';
  if (endsOn !== null && businessDate >= endsOn) return 'ended';
  if (trialEndsOn !== null && businessDate < trialEndsOn) return 'trial';
  const paused = pausesOf(terms).some(({ from, to }) => from <= businessDate && businessDate < to);
  return paused ? 'paused' : 'active';
}

/** The next day after this one on which a date of the subscription falls, or null: when it must be looked at again. */
export function nextWake(subscription: Dated, businessDate: string, nextPayment: Day | null): string | null {
  const { startsOn, trialEndsOn, endsOn, terms } = subscription;
  const days = [
    startsOn,
    trialEndsOn,
    endsOn,
    nextPayment === null ? null : formatDay(nextPayment),
    ...pausesOf(terms).flatMap(({ from, to }) => [from, to]),
  ];
  return days.filter((day) => day !== null && day > businessDate).sort()[0] ?? null;
}

function pausesOf(terms: Terms): readonly { from: string; to: string }[] {
  return 'lines' in terms ? (terms.pauses ?? []) : [];
}
