import { minorDigits } from '../money/currency.ts';
import { formatDecimal } from '../money/decimal.ts';
import { fullPrice, listPrice } from '../pricing/listPrice.ts';
import type { TermsLine, TermsPrice } from '../terms/schema.ts';

/** How an extra line of a plan is offered at enrolment. */
export type ExtraHow = 'required' | 'preselected' | 'offered';

/** A line that a plan offers beside its rates: charged with them, or once. */
export interface ExtraLine {
  readonly key: string;
  readonly name: string;
  /** It goes with the rates of this currency. */
  readonly currency: string;
  readonly price: Exclude<TermsPrice, { scheme: 'instalments' }>;
  readonly when: 'recurring' | 'once';
  readonly how: ExtraHow;
  /** How many: fixed where both are the same. */
  readonly min: number;
  readonly max: number;
  /** Whether customers may change how many by themselves. */
  readonly byCustomer: boolean;
  /** What its line has beside its price, where it is a line of another plan. */
  readonly has?: Pick<TermsLine, 'intro' | 'discounts' | 'tax'>;
}

/** An extra line that was taken, and how many. */
export interface ChosenExtra {
  readonly extra: ExtraLine;
  readonly quantity: number;
}

/** What is asked of one extra line; absent: as the plan offers it. */
export type ExtraChoices = Readonly<Record<string, number>>;

/** The extra lines that go with a rate of some currency; one-off rates have none that recur. */
export function extrasOf(
  extras: readonly ExtraLine[],
  rate: { readonly currency: string; readonly lines?: unknown },
): ExtraLine[] {
  return extras.filter(
    ({ currency, when }) => currency === rate.currency && (when === 'once' || rate.lines !== undefined),
  );
}

/**
 * What is taken of the extra lines: 0 leaves one out, which a required one refuses.
 * @returns those taken, or the key and the sentence of the first that cannot be
 */
export function chooseExtras(
  extras: readonly ExtraLine[],
  choices: ExtraChoices,
): { readonly taken: ChosenExtra[] } | { readonly key: string; readonly says: string } {
  const taken: ChosenExtra[] = [];
  const unknown = Object.keys(choices).find((key) => !extras.some((extra) => extra.key === key));
  if (unknown !== undefined) return { key: unknown, says: 'This plan has no such extra line any more.' };
  for (const extra of extras) {
    const { key, name, how, min, max } = extra;
    const quantity = choices[key] ?? (how === 'offered' ? 0 : min);
    if (quantity === 0 && how !== 'required') continue;
    if (quantity < min || quantity > max) {
      const range = min === max ? `${min}` : `${min} to ${max}`;
      return { key, says: `${name}: take ${range}${how === 'required' ? '' : ', or none'}.` };
    }
    taken.push({ extra, quantity });
  }
  return { taken };
}

/** What goes with a rate where nobody is there to choose: the extra lines that are required, as few as may be. */
export function requiredExtras(extras: readonly ExtraLine[]): ChosenExtra[] {
  return extras.filter(({ how }) => how === 'required').map((extra) => ({ extra, quantity: extra.min }));
}

/** The line that a taken extra adds to what recurs; none for one that is paid once. */
export function recurringLineOf({ extra, quantity }: ChosenExtra): TermsLine[] {
  return extra.when === 'once' ? [] : [{ name: extra.name, quantity, price: extra.price, ...extra.has }];
}

/** What a taken extra that is paid once adds to the day of enrolment. */
export function onceOf({ extra, quantity }: ChosenExtra, currency: string, date: string) {
  if (extra.when !== 'once') return [];
  const digits = minorDigits(currency);
  const amount = formatDecimal(fullPrice(listPrice(extra.price, quantity, digits, 1), 1), digits);
  return [{ name: quantity === 1 ? extra.name : `${quantity} × ${extra.name}`, amount, date }];
}
