import type { Transaction } from 'sequelize';

/** What transactions have read that is the same for all of their parts; it goes with them. */
const read = new WeakMap<Transaction, Map<string, Promise<unknown>>>();

/**
 * Reads something once in a transaction: settings, taxes, the business day. All of its parts then go by the same, and what is
 * asked for by many of them is asked of the database once. Outside of a transaction it is read each time.
 * @param what names it
 */
export function readOnce<T>(
  within: Transaction | undefined,
  what: string,
  ask: () => Promise<T>,
): Promise<T> {
  if (!within) return ask();
  const known = read.get(within) ?? new Map<string, Promise<unknown>>();
  read.set(within, known);
  const asked = (known.get(what) as Promise<T> | undefined) ?? ask();
  known.set(what, asked);
  return asked;
}

/** What a transaction itself has changed is read anew by its later parts. */
export function readAnew(within: Transaction): void {
  read.delete(within);
}
