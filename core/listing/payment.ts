import type { Day } from '../dates/day.ts';
import type { CompiledTax } from '../agreed/terms.ts';
import type { Part } from '../settlement/chargedList.ts';
import type { Taxed } from '../pricing/tax.ts';

/** One line of a payment, in minor units, after discounts. */
export interface PaymentLine {
  readonly role: 'recurring' | 'trial' | 'setup' | 'carried' | 'once' | 'settled';
  readonly name: string;
  readonly quantity: number;
  readonly amount: bigint;
  /** Total taken off this line by discounts. */
  readonly discount: bigint;
  readonly tax: CompiledTax | null;
  /** Of a line that settles a change: which days of what it is. */
  readonly part?: Part | undefined;
}

/** What the lines of the terms become in a payment: whatever else it holds is of none of them. */
export const OF_LINES: ReadonlySet<PaymentLine['role']> = new Set([
  'recurring',
  'carried',
  'settled',
] as const);

/** The amounts of a payment, in minor units. Payments that come out alike share one of these. */
export interface PaymentMoney {
  readonly lines: readonly PaymentLine[];
  readonly discount: bigint;
  readonly net: bigint;
  readonly tax: bigint;
  readonly total: bigint;
  readonly taxes: readonly { readonly tax: CompiledTax | null; readonly taxed: Taxed }[];
}

export type PaymentKind = 'trial' | 'stub' | 'period' | 'change' | 'once';

/** One payment of the listing (rules 4 and 8), in day numbers and minor units. */
export interface Payment {
  readonly kind: PaymentKind;
  readonly from: Day;
  readonly to: Day;
  readonly dueOn: Day;
  readonly money: PaymentMoney;
  /** Credit used up on it, and what is left to pay: `due` = max(total, 0) − `credit`. */
  readonly credit: bigint;
  readonly due: bigint;
}
