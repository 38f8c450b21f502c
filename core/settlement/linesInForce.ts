import type { CompiledLine, CompiledRecurring } from '../agreed/terms.ts';
import { keptLines } from './sameLine.ts';
import type { Kept, LineInForce } from './settle.ts';

/** What had been charged in all when a line came: full prices, and stub and period payments. */
export interface Came {
  readonly fullPrices: number;
  readonly payments: number;
}

/** The lines in force at a place: plain data, to be stored and resumed from. */
export interface LinesPosition {
  /** Whose lines are in force: −1 the terms', otherwise those of this change. */
  readonly linesOf: number;
  /** Full prices charged, and stub and period payments listed, since the start. */
  readonly fullPrices: number;
  readonly payments: number;
  /** For each line in force, when it came; a kept line came when the line did that it keeps. */
  readonly came: readonly Came[];
}

/**
 * The lines in force and their counts (rules 3, 5 and 7): a line that a change keeps goes on with its first price and
 * its discounts where it stood; every other line counts anew.
 */
export class LinesInForce {
  linesOf: number;
  lines: readonly CompiledLine[];
  private fullPrices: number;
  private payments: number;
  private came: readonly Came[];

  constructor(
    private readonly terms: CompiledRecurring | null,
    position?: LinesPosition,
  ) {
    this.linesOf = position?.linesOf ?? -1;
    this.lines = this.linesIn(this.linesOf);
    this.fullPrices = position?.fullPrices ?? 0;
    this.payments = position?.payments ?? 0;
    this.came = position?.came ?? this.lines.map(() => NOTHING);
  }

  position(): LinesPosition {
    const { linesOf, fullPrices, payments, came } = this;
    return { linesOf, fullPrices, payments, came };
  }

  /** The lines of the terms (−1) or of a change. */
  linesIn(of: number): readonly CompiledLine[] {
    const ofChange = of < 0 ? null : this.terms?.changes[of]?.lines;
    return ofChange ?? this.terms?.lines ?? [];
  }

  /** Full prices charged, and stub and period payments listed, since a line in force came. */
  fullPricesOf(line: number): number {
    return this.fullPrices - (this.came[line]?.fullPrices ?? 0);
  }
  paymentsOf(line: number): number {
    return this.payments - (this.came[line]?.payments ?? 0);
  }

  /** Counts a stub or period payment. */
  count(full: boolean): void {
    this.payments += 1;
    if (full) this.fullPrices += 1;
  }

  /** Brings in the lines of a change: which of them keep an old one. Null where the change has none. */
  bring(change: number): readonly Kept[] | null {
    const fresh = this.terms?.changes[change]?.lines ?? null;
    if (fresh === null) return null;
    const { lines: old, came } = this;
    const kept = keptLines(old, fresh);
    const now = { fullPrices: this.fullPrices, payments: this.payments };
    this.linesOf = change;
    this.lines = fresh;
    this.came = kept.map((line) => (line === null ? now : (came[line] ?? now)));
    return kept.map((line, i) =>
      line === null ? null : { old: line, sameQuantity: old[line]?.quantity === fresh[i]?.quantity },
    );
  }

  /** Each line with its counts. */
  counted(): LineInForce[] {
    return this.lines.map((agreed, i) => ({
      of: this.linesOf,
      line: i,
      agreed,
      fullPrices: this.fullPricesOf(i),
      payments: this.paymentsOf(i),
    }));
  }
}

const NOTHING: Came = { fullPrices: 0, payments: 0 };
