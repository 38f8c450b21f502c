import type { PastRecovery } from '../../core/whatIf/history.ts';

/** What ladders are compared on: past declines in the home currency. */
export interface PastRecoveryView {
  readonly past: PastRecovery;
  readonly currency: string;
  /** Declines in other currencies: they are left out. */
  readonly elsewhere: number;
}
