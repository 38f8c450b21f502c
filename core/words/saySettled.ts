import type { Part } from '../settlement/chargedList.ts';
import { sayAmount } from './amount.ts';

/** A part of an amount as it is written down: minor units as digits, days as dates or as numbers alike. */
export type SaidPart = Pick<Part, 'back' | 'days' | 'whole'> & { readonly of: bigint | string };

/**
 * A line of a settlement, in words (rules 7).
 * @example 'back for Hive watch, 19 of 30 days of £1.00'
 */
export function saySettled(name: string, part: SaidPart, currency: string): string {
  const what = name === '' ? (part.back ? 'back' : 'charged') : part.back ? `back for ${name}` : name;
  return `${what}, ${part.days} of ${part.whole} ${part.whole === 1 ? 'day' : 'days'} of ${sayAmount(BigInt(part.of), currency)}`;
}
