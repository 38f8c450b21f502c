import type { Fault } from '../terms/fault.ts';
import type { Terms, TermsAnchor, TermsDiscount } from '../terms/schema.ts';
import type { ChosenExtra } from './extras.ts';

/** A line of one agreement alone, that no plan offers. */
export interface OwnLine {
  readonly name: string;
  /** Major units. */
  readonly amount: string;
  readonly when: 'recurring' | 'once';
}

/** What is agreed with one customer otherwise than the rate has it; absent: as the rate says. */
export interface OwnTerms {
  /** Days from a payment's invoice to its due day. */
  readonly termDays?: number | undefined;
  /** The day of the month on which periods begin; the days until the first of them are charged by their share. */
  readonly billingDay?: number | 'last' | undefined;
  /** Instead of the rate's set-up amount, major units; "0": none. */
  readonly setUp?: string | undefined;
  /** No tax is charged. */
  readonly untaxed?: boolean | undefined;
  /** Taken off, beside what the rate and codes take off. */
  readonly discount?: TermsDiscount | undefined;
  readonly lines?: readonly OwnLine[] | undefined;
  /** Days of a trial instead of the rate's; 0: none. */
  readonly trialDays?: number | undefined;
}

/** What the keys of lines begin with that one agreement alone has. */
const OWN_LINE = 'own-line-';

/** The lines of one agreement as extra lines: they go through every later change as those of a plan do. */
export function ownExtras({ lines = [] }: OwnTerms, currency: string): ChosenExtra[] {
  return lines.map(({ name, amount, when }, i) => ({
    quantity: 1,
    extra: {
      ...{ key: `${OWN_LINE}${i + 1}`, name, currency, when },
      price: { scheme: 'flat' as const, amount },
      ...{ how: 'required' as const, min: 1, max: 1, byCustomer: false },
    },
  }));
}

/** What is sold once has nothing that recurs for a discount to go to. */
const ofSale = (discount: TermsDiscount): TermsDiscount => ({ to: 'once', ...discount });

/** Terms with what is agreed otherwise with one customer; of what is sold once only what a sale has. */
export function withOwnTerms(terms: Terms, own: OwnTerms): Terms {
  if (Object.values(own).every((one) => one === undefined)) return terms;
  const { termDays, billingDay, setUp, untaxed, discount, trialDays } = own;
  const changed = {
    ...terms,
    ...(termDays === undefined ? {} : { terms: `P${termDays}D` }),
    ...(untaxed ? { tax: { rate: '0', mode: 'exclusive' as const } } : {}),
    ...(discount
      ? { discounts: [...(terms.discounts ?? []), 'lines' in terms ? discount : ofSale(discount)] }
      : {}),
  };
  if (!('lines' in changed)) return changed;
  const { setup, trial, ...rest } = changed;
  const tried = trialDays === undefined ? trial : trialDays > 0 && { ...trial, length: `P${trialDays}D` };
  const amount = setUp === undefined ? setup?.amount : setUp;
  const isNone = amount === undefined || (setUp !== undefined && /^0+(\.0+)?$/.test(setUp));
  const lines = untaxed ? changed.lines.map(({ tax: _tax, ...line }) => line) : changed.lines;
  return {
    ...rest,
    lines,
    ...(tried ? { trial: tried } : {}),
    ...(isNone ? {} : { setup: { ...setup, amount } }),
    ...(billingDay === undefined
      ? {}
      : { on: { day: billingDay } as TermsAnchor, stub: changed.stub ?? ('prorate' as const) }),
  };
}

/**
 * The same faults, where they are of what was agreed otherwise beside the field of that: `/own/setUp` for `/setup/amount`.
 * @param of how many lines and discounts the terms have in all
 */
export function faultsOfOwn(
  faults: readonly Fault[],
  own: OwnTerms,
  of: { readonly lines: number; readonly discounts: number },
): Fault[] {
  const recurring = (own.lines ?? []).flatMap(({ when }, i) => (when === 'recurring' ? [i] : []));
  return faults.map((fault) => {
    const { pointer } = fault;
    if (own.setUp !== undefined && pointer.startsWith('/setup')) return { ...fault, pointer: '/own/setUp' };
    if (own.billingDay !== undefined && /^\/(on|stub)/.test(pointer))
      return { ...fault, pointer: '/own/billingDay' };
    if (own.trialDays !== undefined && pointer.startsWith('/trial'))
      return { ...fault, pointer: '/own/trialDays' };
    if (own.termDays !== undefined && pointer.startsWith('/terms'))
      return { ...fault, pointer: '/own/termDays' };
    const [, discount] = /^\/discounts\/(\d+)/.exec(pointer) ?? [];
    if (own.discount && Number(discount) === of.discounts - 1) return { ...fault, pointer: '/own/discount' };
    const [, line] = /^\/lines\/(\d+)/.exec(pointer) ?? [];
    const at = line === undefined ? undefined : recurring[Number(line) - (of.lines - recurring.length)];
    return at === undefined ? fault : { ...fault, pointer: `/own/lines/${at}` };
  });
}
