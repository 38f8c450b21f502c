import { formatDay } from '../dates/day.ts';
import type { Payment } from '../listing/payment.ts';
import { sayDate } from './date.ts';

/** One part of a payment: what it is for, and how much, in minor units, without the tax on top of it. */
export interface FirstPart {
  readonly says: string;
  readonly amount: bigint;
}

/**
 * What the first payment is made of, where that is not simply the price of a period: the days of a part period, a set-up
 * amount, what is paid once. Empty where there is nothing to explain.
 * @example [{ says: 'Hive: 22 days until the billing day, Thu 1 Apr 2027', amount: 2200n }, { says: 'Set-up', amount: 4500n }]
 */
export function explainFirst({ kind, from, to, money }: Payment): FirstPart[] {
  const isPlain = kind === 'period' && money.lines.every(({ role }) => role === 'recurring');
  if (isPlain || kind === 'once') return [];
  const days = to - from;
  const until = `${days} ${days === 1 ? 'day' : 'days'} until the billing day, ${sayDate(formatDay(to))}`;
  return money.lines
    .filter(({ amount }) => amount !== 0n)
    .map(({ role, name, quantity, amount }) => {
      const what = quantity > 1 ? `${quantity} × ${name}` : name;
      if (role === 'setup') return { says: 'Set-up, once', amount };
      if (role === 'trial') return { says: `The trial, ${days} days`, amount };
      if (role === 'once') return { says: `${what || 'Once'}, once`, amount };
      return {
        says: kind === 'stub' && role === 'recurring' ? `${what || 'The price'}: ${until}` : what,
        amount,
      };
    });
}

/**
 * The taxes of a payment in minor units: what comes to its lines, and what they hold already.
 * @example 10.00 with 20 % on it and 12.00 that holds 20 %: 2.00 added, 2.00 held
 */
export function taxesOf({ money }: Payment): { readonly added: bigint; readonly held: bigint } {
  const sum = (mode: 'exclusive' | 'inclusive') =>
    money.taxes.reduce((all, { tax, taxed }) => (tax?.mode === mode ? all + taxed.tax : all), 0n);
  return { added: sum('exclusive'), held: sum('inclusive') };
}
