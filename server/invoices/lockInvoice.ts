import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedSubscription } from '../subscriptions/lock.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { Invoice } from './Invoice.ts';

/** An invoice that staff do something with, and its subscription, both locked. */
export async function lockedInvoice(
  id: string,
  within: Transaction,
): Promise<{ readonly invoice: Invoice; readonly subscription: Subscription }> {
  const found = await Invoice.findByPk(id, { transaction: within });
  if (!found) throw new RefusedCommand(404, 'There is no such invoice.');
  const subscription = await lockedSubscription(found.subscriptionId, within);
  const invoice = await found.reload({ transaction: within, lock: within.LOCK.UPDATE });
  return { invoice, subscription };
}

/** Refuses to touch an invoice while a charge of it is under way: what comes of that is not known yet. */
export async function requireNothingUnderWay(
  { db }: Almanac,
  { id, prefix, number }: Invoice,
  within: Transaction,
): Promise<void> {
  const underWay = await db.row(
    `select from attempts where invoice_id = $id and (state = 'under way' or goes_on) limit 1`,
    { id },
    within,
  );
  if (underWay) throw new RefusedCommand(409, sayUnderWay(`${prefix}${number}`));
}

/** Why an invoice is not touched while a charge of it is under way. */
export function sayUnderWay(invoice: string): string {
  return `Invoice ${invoice} is being charged, and the outcome is not known yet. Try again later.`;
}
