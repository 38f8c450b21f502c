import { parseDecimal, tenTo } from '../money/decimal.ts';
import { roundedQuotient } from '../money/rounding.ts';
import { UNIT_PLACES, type ExactPrice, type Price } from '../agreed/price.ts';

/**
 * What a price scheme amounts to for a quantity (the table of rules 3).
 * @param quantity whole, at least 1; flat, chosen and instalments do not look at it
 * @param digits decimals of the currency
 * @param payments the N of `ends.after`, over which instalments are spread
 * @example 11 units at 3.00 up to 10, then 2.50 and 5.00 fixed: each-tier 37.50, reached-tier 32.50
 */
export function listPrice(price: Price, quantity: number, digits: number, payments: number): ExactPrice {
  if (price.scheme === 'instalments') {
    return { kind: 'instalments', total: parseDecimal(price.total, digits), payments };
  }
  const exact = exactPrice(price, BigInt(quantity));
  const perMinor = tenTo(UNIT_PLACES - digits);
  return { kind: 'each-period', exact, perMinor, full: roundedQuotient(exact, perMinor) };
}

function exactPrice(price: Exclude<Price, { scheme: 'instalments' }>, quantity: bigint): bigint {
  switch (price.scheme) {
    case 'flat':
    case 'chosen':
      return at12(price.amount);
    case 'each':
      return quantity * at12(price.amount);
    case 'pack': {
      const size = BigInt(price.size);
      return ((quantity + size - 1n) / size) * at12(price.amount);
    }
    case 'each-tier': {
      let below = 0n;
      let sum = 0n;
      for (const tier of price.tiers) {
        if (quantity <= below) break;
        const limit = tier.to === null ? quantity : BigInt(tier.to);
        const held = (quantity < limit ? quantity : limit) - below;
        sum += held * at12(tier.each) + at12(tier.amount);
        below = limit;
      }
      return sum;
    }
    case 'reached-tier': {
      const tier = tierOf(price.tiers, quantity);
      return quantity * at12(tier.each) + at12(tier.amount);
    }
    case 'step':
      return at12(tierOf(price.tiers, quantity).amount);
  }
}

/** The one tier that holds a quantity: the first whose limit is not below it. */
function tierOf<T extends { to: number | null }>(tiers: readonly T[], quantity: bigint): T {
  const tier = tiers.find(({ to }) => to === null || quantity <= BigInt(to));
  if (tier === undefined) throw new RangeError('the last tier has a limit');
  return tier;
}

const at12 = (text: string | undefined) => parseDecimal(text ?? '0', UNIT_PLACES);

/**
 * What a full price comes to on its nth charge, in minor units (rules 3): rounded once, or for instalments
 * floor(total / N) and one minor unit more on each of the first (total mod N).
 * @param nth 1 for the first full price charged
 */
export function fullPrice(price: ExactPrice, nth: number): bigint {
  if (price.kind === 'each-period') return price.full;
  const payments = BigInt(price.payments);
  return price.total / payments + (BigInt(nth) <= price.total % payments ? 1n : 0n);
}

/**
 * A part of a price in minor units: round(price × days / whole), the fraction applied to the exact amount
 * before the one rounding (rules 3).
 * @example prorate 40.00 for 9 days of 30: 12.00
 */
export function partOfPrice(price: ExactPrice, days: number, whole: number): bigint {
  if (price.kind === 'instalments') throw new RangeError('instalments are never prorated');
  return roundedQuotient(price.exact * BigInt(days), price.perMinor * BigInt(whole));
}
