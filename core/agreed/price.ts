/**
 * The price of a line as terms write it (rules 3). The schema of terms is held against this type, so that prices are
 * computed without knowing documents.
 */
export type Price =
  | { readonly scheme: 'flat' | 'each'; readonly amount: string }
  | { readonly scheme: 'each-tier' | 'reached-tier'; readonly tiers: readonly Tier[] }
  | { readonly scheme: 'step'; readonly tiers: readonly Step[] }
  | { readonly scheme: 'pack'; readonly amount: string; readonly size: number }
  | {
      readonly scheme: 'chosen';
      readonly amount: string;
      readonly min?: string | undefined;
      readonly max?: string | undefined;
    }
  | { readonly scheme: 'instalments'; readonly total: string };

/** A tier holds quantities up to `to`, the last one all that are left; `each` of the unit, and a fixed `amount`. */
export interface Tier {
  readonly to: number | null;
  readonly each: string;
  readonly amount?: string | undefined;
}

export interface Step {
  readonly to: number | null;
  readonly amount: string;
}

/** Unit amounts are exact to 12 decimals of the major unit (rules 1); prices are held at that scale. */
export const UNIT_PLACES = 12;

/**
 * The price of a line for one full period, exact: `exact` counts 10^-12 of the major unit and is rounded
 * only where it is charged. Instalments are not a price a period but a total paid in parts.
 */
export type ExactPrice =
  | {
      readonly kind: 'each-period';
      readonly exact: bigint;
      readonly perMinor: bigint;
      /** What a full price comes to: `exact` rounded to the minor unit. */
      readonly full: bigint;
    }
  | { readonly kind: 'instalments'; readonly total: bigint; readonly payments: number };
