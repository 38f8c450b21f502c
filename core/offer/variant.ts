/** One of several that a plan comes in, as far as it says which of the plan's rates it can be had at. */
export interface OffersRates {
  /** The ids of rates; none named: all of the plan. */
  readonly rates: readonly string[];
}

/** Whether a variant can be had at a rate: it may have a rhythm or a trial of its own. */
export function offersRate({ rates }: OffersRates, rateId: string): boolean {
  return rates.length === 0 || rates.includes(rateId);
}

/** The variants that one chooses from at a rate; none, and the rate is sold as it is. */
export function variantsAt<Variant extends OffersRates>(
  variants: readonly Variant[],
  rateId: string,
): Variant[] {
  return variants.filter((variant) => offersRate(variant, rateId));
}
