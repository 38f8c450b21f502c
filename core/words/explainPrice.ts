import { minorDigits } from '../money/currency.ts';
import { formatDecimal, parseDecimal } from '../money/decimal.ts';
import { fullPrice, listPrice } from '../pricing/listPrice.ts';
import { UNIT_PLACES } from '../agreed/price.ts';
import type { TermsPrice } from '../terms/schema.ts';
import { sayAmount } from './amount.ts';

/** One step of how a price comes about. */
export interface PriceStep {
  /** '7 at 8.00', or '2 packs of 6 at 12.00'. */
  readonly says: string;
  /** What it comes to, exact, as a decimal in the major unit. */
  readonly comesTo: string;
}

/** How the price of a quantity comes about, step by step, and what is charged in the end. */
export interface ExplainedPrice {
  readonly steps: readonly PriceStep[];
  /** As it is charged, rounded once: '£93.50'. */
  readonly total: string;
  /** Minor units. */
  readonly charged: bigint;
}

/**
 * Explains what a price scheme comes to for a quantity.
 * @param price that has been found good
 * @param quantity whole, at least 1
 * @example 11 at 3.00 up to 10, then 2.50: '10 at 3.00' 30.00, '1 at 2.50' 2.50, in all 32.50
 */
export function explainPrice(price: TermsPrice, quantity: number, currency: string): ExplainedPrice {
  const digits = minorDigits(currency);
  const charged = fullPrice(listPrice(price, quantity, digits, 1), 1);
  return { steps: stepsOf(price, quantity), total: sayAmount(charged, currency), charged };
}

const exact = (text: string | undefined) => parseDecimal(text ?? '0', UNIT_PLACES);

/** An exact amount with no more zeros behind the point than money has. */
function say(value: bigint): string {
  const [whole = '0', decimals = ''] = formatDecimal(value, UNIT_PLACES).split('.');
  const kept = decimals.replace(/0+$/, '');
  return `${whole}.${kept.padEnd(2, '0')}`;
}

function stepsOf(price: TermsPrice, quantity: number): PriceStep[] {
  const times = (count: number, each: string) => ({
    says: `${count} at ${each}`,
    comesTo: say(BigInt(count) * exact(each)),
  });
  const fixed = (amount: string | undefined, what: string): PriceStep[] =>
    exact(amount) === 0n ? [] : [{ says: what, comesTo: say(exact(amount)) }];
  switch (price.scheme) {
    case 'flat':
      return [{ says: 'the same for any quantity', comesTo: say(exact(price.amount)) }];
    case 'chosen':
      return [{ says: 'the amount that is suggested', comesTo: say(exact(price.amount)) }];
    case 'instalments':
      return [{ says: 'in all, over the payments', comesTo: say(exact(price.total)) }];
    case 'each':
      return [times(quantity, price.amount)];
    case 'pack': {
      const packs = Math.ceil(quantity / price.size);
      return [
        {
          says: `${packs} ${packs === 1 ? 'pack' : 'packs'} of ${price.size} at ${price.amount}`,
          comesTo: say(BigInt(packs) * exact(price.amount)),
        },
      ];
    }
    case 'step': {
      const tier = price.tiers.find(({ to }) => to === null || quantity <= to);
      const what = tier?.to === null ? 'the last step' : `the step up to ${tier?.to ?? ''}`;
      return [{ says: what, comesTo: say(exact(tier?.amount)) }];
    }
    case 'reached-tier': {
      const tier = price.tiers.find(({ to }) => to === null || quantity <= to);
      return [times(quantity, tier?.each ?? '0'), ...fixed(tier?.amount, 'fixed for this tier')];
    }
    case 'each-tier': {
      const steps: PriceStep[] = [];
      let below = 0;
      for (const [i, tier] of price.tiers.entries()) {
        if (quantity <= below) break;
        const held = Math.min(quantity, tier.to ?? quantity) - below;
        steps.push(times(held, tier.each), ...fixed(tier.amount, `fixed for tier ${i + 1}`));
        below = tier.to ?? quantity;
      }
      return steps;
    }
  }
}
