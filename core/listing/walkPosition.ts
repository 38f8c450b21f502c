import type { Day } from '../dates/day.ts';
import type { TimetablePosition } from '../schedule/place.ts';
import type { ChargedList } from '../settlement/chargedList.ts';
import type { LinesPosition } from '../settlement/linesInForce.ts';
import type { SettledLine } from '../settlement/settle.ts';

/** The version of stored places. A place of another version is carried over by a migration, never read as it is. */
export const VERSION = 2;

/** Where a walk stands between two payments: plain JSON data, to be stored and resumed from. */
export interface WalkPosition {
  readonly version: typeof VERSION;
  readonly timetable: TimetablePosition | null;
  readonly lines: LinesPosition;
  /** How many payments each discount of the document has been counted on. */
  readonly discountUses: readonly number[];
  readonly setupWaits: boolean;
  /** Next once amount not yet listed. */
  readonly once: number;
  /** Credit at hand, minor units. */
  readonly credit: string;
  /** Lines that a change carried over to the next stub or period payment. */
  readonly carried: readonly StoredSettled[];
  /** What was charged for the running stub or period; null where nothing was. */
  readonly charged: StoredList | null;
}

/** A place with no credit in it: what a change gives back is the customer's, for all of their subscriptions. */
export function withoutCredit(walk: WalkPosition): WalkPosition {
  return { ...walk, credit: '0' };
}

interface StoredPart {
  readonly back: boolean;
  readonly of: string;
  readonly from: Day;
  readonly to: Day;
  readonly days: number;
  readonly whole: number;
}

interface StoredSettled {
  readonly of: number;
  readonly line: number;
  readonly amount: string;
  readonly part: StoredPart | null;
}

interface StoredList {
  readonly entries: readonly {
    readonly of: number;
    readonly line: number;
    readonly own: number | null;
    readonly amount: string;
    readonly from: Day;
    readonly to: Day;
  }[];
  readonly taken: readonly number[];
  readonly once: readonly string[];
}

export const NO_LIST: ChargedList = { entries: [], taken: [], once: [] };

export function writeList({ entries, taken, once }: ChargedList): StoredList {
  return {
    entries: entries.map((entry) => ({ ...entry, amount: entry.amount.toString() })),
    taken,
    once: once.map(String),
  };
}

export function readList({ entries, taken, once }: StoredList): ChargedList {
  return {
    entries: entries.map((entry) => ({ ...entry, amount: BigInt(entry.amount) })),
    taken,
    once: once.map(BigInt),
  };
}

export function writeSettled({ of, line, amount, part }: SettledLine): StoredSettled {
  return { of, line, amount: amount.toString(), part: part && { ...part, of: part.of.toString() } };
}

export function readSettled({ of, line, amount, part }: StoredSettled): SettledLine {
  return { of, line, amount: BigInt(amount), part: part && { ...part, of: BigInt(part.of) } };
}
