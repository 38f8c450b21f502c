import { minorDigits } from '../../../../core/money/currency.ts';
import { decimalsOf } from '../../../../core/money/decimal.ts';
import type { Unit } from '../../plans/rate/UnitField.tsx';

/** Stands for a plan that is made along with the rate. */
export const NEW_PLAN = 'new';

/** A rate as it is typed in the middle of an enrolment: a price for each line, again and again, or once. */
export interface NewRate {
  readonly planId: string;
  readonly planName: string;
  readonly name: string;
  readonly currency?: string;
  /** Or else it is charged once: an invoice of its own. */
  readonly recurs: boolean;
  readonly every: string;
  readonly unit: Unit;
  readonly lines: readonly { readonly name: string; readonly amount: string }[];
  /** For one customer alone. */
  readonly once: boolean;
}

export function newRate(from: Partial<NewRate> = {}): NewRate {
  return {
    ...{ planId: NEW_PLAN, planName: '', name: '', recurs: true, every: '1', unit: 'M', once: false },
    lines: [{ name: '', amount: '' }],
    ...from,
  };
}

/** A rate that begins to be typed: of the plan that is asked for by its name, which may have to be made, or of the first there is. */
export function beginRate(
  plans: readonly { readonly id: string; readonly name: string; readonly archivedOn: string | null }[],
  from?: Partial<NewRate>,
): NewRate {
  const offered = plans.filter(({ archivedOn }) => archivedOn === null);
  const named = offered.find(({ name }) => name === from?.planName);
  const planId = named?.id ?? (from?.planName === undefined ? offered[0]?.id : undefined) ?? NEW_PLAN;
  return newRate({ planId, ...from });
}

/** What it is about, in words: its lines, or else how it is called. */
export function sayNewRate({ lines, name }: NewRate): string {
  const named = lines.map((line) => line.name.trim()).filter((said) => said !== '');
  return named.join(', ') || name;
}

const isNumber = (text: string) => /^[1-9]\d{0,2}$/.test(text.trim());

/** What is wrong with it, by its fields. */
export function faultsOfNewRate(draft: NewRate, currency: string): ReadonlyMap<string, string> {
  const faults = new Map<string, string>();
  const wrong = (field: string, says: string, isWrong: boolean) => isWrong && faults.set(field, says);
  wrong('planName', 'Give the plan a name.', draft.planId === NEW_PLAN && draft.planName.trim() === '');
  wrong('name', 'Give the rate a name, such as Monthly.', draft.name.trim() === '');
  wrong('every', 'Give a number from 1 to 999.', draft.recurs && !isNumber(draft.every));
  draft.lines.forEach(({ name, amount }, i) => {
    wrong(`lines/${i}/name`, 'Say what it is for.', name.trim() === '');
    const places = decimalsOf(amount.trim());
    wrong(`lines/${i}/amount`, 'Give a price.', places === null || places > minorDigits(currency));
  });
  return faults;
}

/** The same as it is sent; it is to be without faults. */
export function sentRate(draft: NewRate, currency: string) {
  const lines = draft.lines.map(({ name, amount }) => ({ name: name.trim(), amount: amount.trim() }));
  return {
    name: draft.name.trim(),
    terms: draft.recurs
      ? {
          ...{ currency, interval: `P${draft.every.trim()}${draft.unit}` },
          lines: lines.map(({ name, amount }) => ({ name, price: { scheme: 'flat', amount } })),
        }
      : { currency, once: lines },
    options: { methods: ['card', 'bank debit', 'invoice'] },
  };
}
