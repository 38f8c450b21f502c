/** The states of a subscription, in the product's words. */
export const SUBSCRIPTION_STATES = [
  'scheduled',
  'trial',
  'active',
  'overdue',
  'paused',
  'lapsed',
  'ended',
] as const;
export type SubscriptionState = (typeof SUBSCRIPTION_STATES)[number];

export type EndedWhy =
  'completed' | 'not taken up' | 'cancelled by the customer' | 'cancelled by the business' | 'given up';

/** Who cancelled a subscription. */
export type CancelledBy = 'customer' | 'business';

/** What becomes of a trial that ends without a card. */
export type TrialWithoutMethod = 'end' | 'pause' | 'invoice';
/** What a subscription does without a method: its trial ends in some way, or all its payments wait for one. */
export type WithoutMethod = TrialWithoutMethod | 'wait';

/** What is asked for to see all subscriptions that have not ended. */
export const NOT_ENDED = 'not ended';

/** What subscriptions are filtered by that something hinders from being charged. */
export const CANNOT_BE_CHARGED = 'cannot be charged';
