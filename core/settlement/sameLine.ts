import type { Price, Step, Tier } from '../agreed/price.ts';
import { UNIT_PLACES } from '../agreed/price.ts';
import type { CompiledDiscount, CompiledLine } from '../agreed/terms.ts';
import { parseDecimal } from '../money/decimal.ts';
import { isSameTax } from '../pricing/tax.ts';

/**
 * Rules 7 and 10, kept lines: which old line each new one keeps. In order, a new line keeps the first old one, not yet
 * kept, of the same name, price, intro, own discounts and tax; only the quantity may differ.
 *
 * @param old the lines in force the day before
 * @returns for each new line the index of the old one that it keeps, or null
 */
export function keptLines(
  old: readonly CompiledLine[],
  fresh: readonly CompiledLine[],
): readonly (number | null)[] {
  const left = new Set(old.keys());
  return fresh.map((line) => {
    for (const i of left) {
      const before = old[i];
      if (before === undefined || !isSameLine(before, line)) continue;
      left.delete(i);
      return i;
    }
    return null;
  });
}

/** Whether two lines are the same but for their quantity, by value and with defaults filled in (rules 10). */
export function isSameLine(a: CompiledLine, b: CompiledLine): boolean {
  return (
    a.named === b.named &&
    a.name === b.name &&
    samePrice(a.price, b.price) &&
    a.intro?.payments === b.intro?.payments &&
    a.intro?.amount === b.intro?.amount &&
    a.discounts.length === b.discounts.length &&
    a.discounts.every((discount, i) => sameDiscount(discount, b.discounts[i])) &&
    isSameTax(a.tax, b.tax)
  );
}

function sameDiscount(a: CompiledDiscount, b: CompiledDiscount | undefined): boolean {
  return b !== undefined && a.percent === b.percent && a.amount === b.amount && a.payments === b.payments;
}

function samePrice(a: Price, b: Price): boolean {
  if (a === b) return true;
  if ('tiers' in a) return a.scheme === b.scheme && 'tiers' in b && sameTiers(a.tiers, b.tiers);
  if (a.scheme === 'instalments') return b.scheme === 'instalments' && sameDecimal(a.total, b.total);
  if (a.scheme !== b.scheme || !('amount' in b) || !sameDecimal(a.amount, b.amount)) return false;
  if (a.scheme === 'pack') return b.scheme === 'pack' && a.size === b.size;
  if (a.scheme === 'chosen')
    return b.scheme === 'chosen' && sameDecimal(a.min, b.min) && sameDecimal(a.max, b.max);
  return true;
}

function sameTiers(a: readonly (Tier | Step)[], b: readonly (Tier | Step)[]): boolean {
  return (
    a.length === b.length &&
    a.every((tier, i) => {
      const other = b[i];
      return (
        other !== undefined &&
        tier.to === other.to &&
        sameDecimal(tier.amount ?? '0', other.amount ?? '0') &&
        sameDecimal(eachOf(tier), eachOf(other))
      );
    })
  );
}

const eachOf = (tier: Tier | Step) => ('each' in tier ? tier.each : undefined);

/** Whether two decimals are of the same value, or both are left out. */
function sameDecimal(a: string | undefined, b: string | undefined): boolean {
  if (a === b) return true;
  return a !== undefined && b !== undefined && parseDecimal(a, UNIT_PLACES) === parseDecimal(b, UNIT_PLACES);
}
