import type { CompiledDiscount, CompiledLine } from '../agreed/terms.ts';
import { fullPrice, partOfPrice } from '../pricing/listPrice.ts';
import { leftOfLines, type OpenLine } from '../pricing/discountLines.ts';
import type { ChangeEvent, ChargedSpan } from '../schedule/place.ts';
import {
  amountOf,
  partIn,
  type ChargedList,
  type Entry,
  type LineReference,
  type Part,
} from './chargedList.ts';

/** A line in force: as agreed, where it stands in the terms, and how often it has been charged. */
export interface LineInForce extends LineReference {
  readonly agreed: CompiledLine;
  /** Full prices charged, and stub and period payments listed, since it came. */
  readonly fullPrices: number;
  readonly payments: number;
}

/** A line of a settlement, in minor units: what comes back is negative. */
export interface SettledLine extends LineReference {
  readonly amount: bigint;
  /** Which days of what it is; null of what was carried over from a release that did not keep it. */
  readonly part: Part | null;
}

/** What a change comes to, and the charged list after it. */
export interface Settlement {
  readonly lines: readonly SettledLine[];
  readonly list: ChargedList;
}

/**
 * Rules 7: both sides are what was, and what would have been, charged. What was charged for lines that are not
 * unchanged comes back for the days that are left; then the new ones are charged for those days; then the days that a
 * `next` gives or takes.
 *
 * @param lines in force from the change on, with the counts that kept ones have
 * @param kept for each of them the old line that it keeps; null where the change brings no lines
 * @param discounts of the document
 */
export function settle(
  event: ChangeEvent,
  list: ChargedList,
  lines: readonly LineInForce[],
  kept: readonly Kept[] | null,
  discounts: readonly CompiledDiscount[],
): Settlement {
  const settled: SettledLine[] = [];
  const settles = event.settle !== 'none';
  if (event.reschedules) {
    if (settles) for (const entry of list.entries) credit(settled, entry, event.from, event.to);
    return { lines: settled, list };
  }
  let { entries } = list;
  const wouldBe = settles ? fullsOf(lines, list, event.charged, discounts) : [];
  if (kept !== null) {
    const unchanged = unchangedOf(entries, kept, event.from);
    const now = entries.map((entry) => ownAfter(entry, kept, unchanged));
    if (!settles) entries = now;
    else {
      const stays: Entry[] = [];
      for (const [i, entry] of entries.entries()) {
        const same = now[i];
        if (same !== undefined && same.own !== null) stays.push(same);
        else credit(settled, entry, event.from, event.to);
      }
      entries = stays;
      for (const i of lines.keys())
        if (!unchanged[i]) charge(settled, stays, lines, i, wouldBe, event.from, event.to, event.charged);
    }
  }
  if (event.moves !== null) {
    const { from, to, stop } = event.moves;
    if (to > from && stop > from) {
      const longer = [...entries];
      for (const i of lines.keys()) charge(settled, longer, lines, i, wouldBe, from, stop, event.charged);
      entries = longer;
    } else if (to < from) {
      for (const entry of entries) credit(settled, entry, to, event.to);
      entries = entries.flatMap((entry) => cutTo(entry, to));
    }
  }
  return { lines: settled, list: { entries, taken: list.taken, once: list.once } };
}

/** The old line that a new one keeps, and whether its quantity is the same. */
export type Kept = { readonly old: number; readonly sameQuantity: boolean } | null;

/**
 * Whether each line in force is unchanged: kept in the same quantity, with an entry of its own that holds the day of
 * the change.
 */
function unchangedOf(entries: readonly Entry[], kept: readonly Kept[], day: number): readonly boolean[] {
  return kept.map(
    (one) =>
      one !== null &&
      one.sameQuantity &&
      entries.some(({ own, from, to }) => own === one.old && from <= day && day < to),
  );
}

/** An entry as it stands after a change of lines: of the line that is its own unchanged, or of none. */
function ownAfter(entry: Entry, kept: readonly Kept[], unchanged: readonly boolean[]): Entry {
  const { of, line, amount, from, to, own } = entry;
  const now = own === null ? -1 : kept.findIndex((one, i) => unchanged[i] === true && one?.old === own);
  return { of, line, amount, from, to, own: now < 0 ? null : now };
}

/** Credits the part of an entry in [from, to), if it holds any of those days. */
function credit(settled: SettledLine[], entry: Entry, from: number, to: number): void {
  const part = partIn(entry, from, to);
  if (part !== null) settled.push({ of: entry.of, line: entry.line, amount: -amountOf(part), part });
}

/** Charges the days [from, to) of what a line would have been charged, and enters them in the list. */
function charge(
  settled: SettledLine[],
  entries: Entry[],
  lines: readonly LineInForce[],
  own: number,
  wouldBe: readonly bigint[],
  from: number,
  to: number,
  charged: ChargedSpan,
): void {
  const inForce = lines[own];
  const full = wouldBe[own];
  if (inForce === undefined || full === undefined || to <= from) return;
  const { of, line } = inForce;
  const part = { back: false, of: full, from, to, days: to - from, whole: charged.to - charged.from };
  const amount = amountOf(part);
  settled.push({ of, line, amount, part });
  entries.push({ of, line, amount, from, to, own });
}

/** An entry that ends on a day, less its part after it; none where nothing of it is left. */
function cutTo(entry: Entry, end: number): Entry[] {
  const after = partIn(entry, end, entry.to);
  if (after === null) return [entry];
  return entry.from < end ? [{ ...entry, to: end, amount: entry.amount - amountOf(after) }] : [];
}

/**
 * Rules 7, full: what the payment on P would have charged for each line in force, in minor units, as if they had stood
 * there in place of its recurring lines. It uses up no count.
 */
function fullsOf(
  lines: readonly LineInForce[],
  { taken, once }: ChargedList,
  charged: ChargedSpan,
  discounts: readonly CompiledDiscount[],
): readonly bigint[] {
  const open = lines.map(({ agreed, fullPrices, payments }): OpenLine => {
    const { intro, list } = agreed;
    const wasCharged = payments > 0;
    const atFirstPrice = wasCharged && charged.full && intro !== null && fullPrices <= intro.payments;
    const ordinary = charged.full ? fullPrice(list, 1) : partOfPrice(list, charged.days, charged.whole);
    return {
      role: 'recurring',
      name: agreed.name,
      quantity: agreed.quantity,
      amount: atFirstPrice ? intro.amount : ordinary,
      own: agreed.discounts.filter((own) =>
        wasCharged ? payments <= own.payments : own.payments === Infinity,
      ),
      tax: null,
    };
  });
  for (const amount of once) open.push({ role: 'once', name: '', quantity: 1, amount, own: [], tax: null });
  const inAll = taken.flatMap((i) => discounts[i] ?? []);
  return leftOfLines(open, inAll, charged);
}
