import { minorDigits } from '../../core/money/currency.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import type { Almanac } from '../almanac.ts';

const HUNDREDTHS = 4;

/** What a way of payment costs the business, by what its gateway asks. */
export interface MethodCost {
  readonly method: 'card' | 'bank debit' | 'online transfer' | 'invoice';
  readonly gateway: string;
  /** Of the amount, and on top of it in major units. */
  readonly percent: string;
  readonly fixed: string;
  /** Minor units. */
  readonly cost: string;
}

/**
 * What each way of payment costs the business for a payment of an amount: the fee that its gateway names, a percentage and a
 * fixed part, rounded half up. Of several gateways the dearest is said, as any of them may be the one.
 * @param amount minor units
 */
export async function costsOf(almanac: Almanac, amount: bigint, currency: string): Promise<MethodCost[]> {
  const digits = minorDigits(currency);
  const accounts = await almanac.gateways.connected();
  const costs = accounts.flatMap(({ name, facts }) =>
    facts.abilities.fees
      .filter((fee) => fee.currency === currency)
      .map(({ method, percent, fixed }): MethodCost => {
        const scale = 100n * 10n ** BigInt(HUNDREDTHS);
        const part = amount * parseDecimal(percent, HUNDREDTHS);
        const cost = (2n * part + scale) / (2n * scale) + parseDecimal(fixed, digits);
        return {
          method: method as MethodCost['method'],
          gateway: name,
          percent,
          fixed,
          cost: cost.toString(),
        };
      }),
  );
  return costs.filter(
    (one) => !costs.some((other) => other.method === one.method && BigInt(other.cost) > BigInt(one.cost)),
  );
}
