import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Customer } from '../customers/Customer.ts';
import { Subscription } from './Subscription.ts';

/*
 * Whoever locks several rows takes them in one order, so that no two ever wait for each other: the customer, the
 * subscription, its case, an invoice, an attempt; then the numbers of documents, and the customer's credit last.
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

/**
 * The subscriptions of a customer, held as they are: nobody who changes one of them waits for this transaction and is waited for.
 * For whoever takes the customer's credit, which is locked after them, and then writes of one of them.
 */
export async function holdSubscriptions(
  { db }: Almanac,
  customerId: string,
  within: Transaction,
): Promise<void> {
  await db.rows(
    'select from subscriptions where customer_id = $customerId order by id for key share',
    { customerId },
    within,
  );
}
