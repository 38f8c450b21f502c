import type { Problem } from './problems.ts';

/** How much an import did, or would do. */
export interface ImportCounts {
  /** What was (or, in a dry run, would be) added, and what was there already. */
  readonly added: {
    plans: number;
    rates: number;
    customers: number;
    subscriptions: number;
    discounts: number;
    rateCards: number;
    variants: number;
  };
  /** What was changed to what the file says, where that was asked for; rates get a new version. */
  readonly changed: { rates: number; plans: number; variants: number; rateCards: number; discounts: number };
  readonly alreadyThere: { rates: number; customers: number; subscriptions: number };
}

/** What an import did, or would do, and what is wrong with its files. */
export interface ImportReport extends ImportCounts {
  readonly problems: readonly Problem[];
}
