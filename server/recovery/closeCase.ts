import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { settleNeeds } from '../run/needs.ts';
import { standingOf } from '../subscriptions/standing.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/** Closes the case of an invoice as recovered when nothing that has come due of its invoices is owed any more. */
export async function closeIfPaid(
  almanac: Almanac,
  invoice: Invoice,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  if (invoice.caseId === null) return;
  const subscription = await Subscription.findByPk(invoice.subscriptionId, {
    transaction: within,
    lock: within.LOCK.UPDATE,
    rejectOnEmpty: true,
  });
  const open = await RecoveryCase.findOne({
    where: { id: invoice.caseId, state: 'open' },
    transaction: within,
    lock: within.LOCK.UPDATE,
  });
  if (!open) return;
  const owing = await almanac.db.row(
    `select 1 from open_dues d join invoices i on i.id = d.invoice_id
     where i.case_id = $caseId and (d.due_on <= $businessDate or not d.of_several) limit 1`,
    { caseId: open.id, businessDate },
    within,
  );
  if (owing) return;
  await open.update(
    { state: 'recovered', closedOn: businessDate, nextRungOn: null, retryOn: null },
    { transaction: within },
  );
  if (subscription.state === 'overdue') {
    await subscription.update({ state: standingOf(subscription, businessDate) }, { transaction: within });
  }
  await settleNeeds(almanac, within, `case:${open.id}`, businessDate);
}
