import type { Almanac } from '../almanac.ts';
import type { Bound } from '../db/database.ts';

/** One pass over a day: what it works with, and the word that it is to stop. */
export interface Pass {
  readonly almanac: Almanac;
  readonly businessDate: string;
  /** Who works: no two passes are the same worker. */
  readonly worker: string;
  /** The instant that decides of hours, such as a decline that is tried again soon. */
  readonly now: Date;
  /** Aborted when this pass is to end: nothing more is begun then. */
  readonly signal: AbortSignal;
}

/** How a batch is done together. */
export interface Together {
  readonly signal: AbortSignal;
  /** Waits until all batches before this one are done: for what must come in one order whoever does it. */
  readonly inOrder: () => Promise<void>;
}

/**
 * One step of a day. What is due is one statement, which gives an `item` a row; a batch of items is done together where
 * that can be, and otherwise one by one. An item that goes wrong becomes a line on the day sheet and stops nobody.
 */
export interface Step {
  /** What is done, in the words of the day sheet; unique within the day. */
  readonly name: string;
  /** Gives what is due, one `item` a row, in the order in which it is to be done. `$businessDate` is bound. */
  readonly due: string;
  readonly bound?: (pass: Pass) => Readonly<Record<string, Bound>>;
  /** How many items are claimed together. */
  readonly size: number;
  /** Does a batch together. Whatever items it gives back are then done one by one. */
  readonly together?: (pass: Pass, items: readonly string[], how: Together) => Promise<readonly string[]>;
  readonly one: (pass: Pass, item: string) => Promise<unknown>;
  /** Done one by one so many side by side; 1 where the order of the items counts. */
  readonly lanes?: number;
  /** Nothing else of a subscription waits for it: one of which it goes wrong is named, and not held back. */
  readonly holdsNobody?: true;
  /** The subscription that an item that goes wrong is put on the day sheet with. */
  readonly subscriptionOf: (almanac: Almanac, item: string) => Promise<string | null>;
}
