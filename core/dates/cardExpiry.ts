import { civilOf, toDay } from './day.ts';

/** Month and year of a card, as they are printed on it: it is good through the last day of that month. Null: it has none. */
export interface CardExpiry {
  readonly expiresYear: number | null;
  /** 1 to 12. */
  readonly expiresMonth: number | null;
}

/**
 * Whether a card is no longer good on a day (`YYYY-MM-DD`); what has no expiry, such as a bank account, always is.
 * @example hasExpired({ expiresYear: 2026, expiresMonth: 10 }, '2026-10-31') // false
 */
export function hasExpired({ expiresYear, expiresMonth }: CardExpiry, on: string): boolean {
  if (expiresYear === null || expiresMonth === null) return false;
  const { year, month } = civilOf(toDay(on));
  return expiresYear * 12 + expiresMonth < year * 12 + month;
}
