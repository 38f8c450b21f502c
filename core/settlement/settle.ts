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
 * @param unchanged whether each of them is the same line in the same quantity
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
  let { entries } = list;
  if (event.reschedules) {
    if (event.settle !== 'none') settled.push(...credits(entries, event.from, event.to));
    return { lines: settled, list: { ...list, entries } };
  }
  const wouldBe = event.settle === 'none' ? [] : fullsOf(lines, list, event.charged, discounts);
  if (kept !== null) {
    const stays = staysOf(entries, kept, event.from);
    const own = (entry: Entry) => (entry.own === null ? null : stays(entry.own));
    if (event.settle === 'none') entries = entries.map((entry) => ({ ...entry, own: own(entry) }));
    else {
      const still = entries.flatMap((entry) => {
        const line = own(entry);
        return line === null ? [] : [{ ...entry, own: line }];
      });
      const unchanged = new Set(still.map((entry) => entry.own));
      const gone = entries.filter((entry) => own(entry) === null);
      const fresh = [...lines.keys()].filter((i) => !unchanged.has(i));
      const charges = charge(lines, fresh, wouldBe, event.from, event.to, event.charged);
      settled.push(...credits(gone, event.from, event.to), ...charges.map(({ line }) => line));
      entries = [...still, ...charges.map(({ entry }) => entry)];
    }
  }
  if (event.moves !== null) {
    const { from, to, stop } = event.moves;
    if (to > from && stop > from) {
      const charges = charge(lines, [...lines.keys()], wouldBe, from, stop, event.charged);
      settled.push(...charges.map(({ line }) => line));
      entries = [...entries, ...charges.map(({ entry }) => entry)];
    } else if (to < from) {
      settled.push(...credits(entries, to, event.to));
      entries = entries.flatMap((entry) => cutTo(entry, to));
    }
  }
  return { lines: settled, list: { ...list, entries } };
}

/** The old line that a new one keeps, and whether its quantity is the same. */
export type Kept = { readonly old: number; readonly sameQuantity: boolean } | null;

/**
 * For an old line, the new one that is it unchanged, or null: kept in the same quantity, with an entry of its own that
 * holds the day of the change.
 */
function staysOf(entries: readonly Entry[], kept: readonly Kept[], day: number) {
  const now = new Map<number, number>();
  kept.forEach((one, i) => {
    if (!one?.sameQuantity) return;
    const holds = entries.some(({ own, from, to }) => own === one.old && from <= day && day < to);
    if (holds) now.set(one.old, i);
  });
  return (old: number) => now.get(old) ?? null;
}

function credits(entries: readonly Entry[], from: number, to: number): SettledLine[] {
  return entries.flatMap((entry) => {
    const part = partIn(entry, from, to);
    return part === null ? [] : [{ of: entry.of, line: entry.line, amount: -amountOf(part), part }];
  });
}

function charge(
  lines: readonly LineInForce[],
  which: readonly number[],
  wouldBe: readonly bigint[],
  from: number,
  to: number,
  charged: ChargedSpan,
): { readonly line: SettledLine; readonly entry: Entry }[] {
  return which.flatMap((i) => {
    const inForce = lines[i];
    const full = wouldBe[i];
    if (inForce === undefined || full === undefined || to <= from) return [];
    const { of, line } = inForce;
    const part = { of: full, from, to, days: to - from, whole: charged.to - charged.from };
    const amount = amountOf(part);
    return [{ line: { of, line, amount, part }, entry: { of, line, amount, from, to, own: i } }];
  });
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
