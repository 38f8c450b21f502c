import { civilOf, toDay } from './day.ts';

/** Month and year of a card, as they are printed on it: it is good through the last day of that month. */
export interface CardExpiry {
  readonly expiresYear: number;
  /** 1 to 12. */
  readonly expiresMonth: number;
}

/**
 * Whether a card is no longer good on a day (`YYYY-MM-DD`).
 * @example hasExpired({ expiresYear: 2026, expiresMonth: 10 }, '2026-10-31') // false
 */
export function hasExpired({ expiresYear, expiresMonth }: CardExpiry, on: string): boolean {
  const { year, month } = civilOf(toDay(on));
  return expiresYear * 12 + expiresMonth < year * 12 + month;
}
