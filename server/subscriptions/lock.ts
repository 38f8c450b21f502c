import type { Transaction } from 'sequelize';
import { RefusedCommand } from '../http/problem.ts';
import { Customer } from '../customers/Customer.ts';
import { Subscription } from './Subscription.ts';

/*
 * Whoever locks several rows takes them in one order, so that no two ever wait for each other: the customer, the
 * subscription, its case, an invoice, an attempt.
 */

/** The subscription, locked. Nobody else changes it, its case or its invoices until the transaction ends. */
export function lockedSubscription(id: string, within: Transaction): Promise<Subscription> {
  return Subscription.findByPk(id, { transaction: within, lock: within.LOCK.UPDATE, rejectOnEmpty: true });
}

/** The customer, locked: for what must happen once of all that they have, such as a letter of the day or a new card. */
export async function lockedCustomer(id: string, within: Transaction): Promise<Customer> {
  const lock = within.LOCK.NO_KEY_UPDATE;
  const customer = await Customer.findByPk(id, { transaction: within, lock });
  // Two records may have been put together meanwhile.
  if (!customer) throw new RefusedCommand(404, 'There is no such customer any more.');
  return customer;
}
