import type { Part } from '../settlement/chargedList.ts';
import { sayAmount } from './amount.ts';

/** A part of an amount as it is written down: minor units as digits, days as dates or as numbers alike. */
export type SaidPart = Pick<Part, 'back' | 'days' | 'whole'> & { readonly of: bigint | string };

/**
 * A line of a settlement, in words (rules 7).
 * @example 'back for Hive watch, 19 of 30 days of £1.00', 'Hive watch, 33 days at £19.00 for 31 days'
 */
export function saySettled(name: string, part: SaidPart, currency: string): string {
  const what = name === '' ? (part.back ? 'back' : 'charged') : part.back ? `back for ${name}` : name;
  const price = sayAmount(BigInt(part.of), currency);
  const days = (count: number) => `${count} ${count === 1 ? 'day' : 'days'}`;
  return part.days <= part.whole
    ? `${what}, ${part.days} of ${days(part.whole)} of ${price}`
    : `${what}, ${days(part.days)} at ${price} for ${days(part.whole)}`;
}
