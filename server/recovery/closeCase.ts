import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import type { Attempt } from '../payments/Attempt.ts';
import { settleNeeds } from '../run/needs.ts';
import { standByDates } from '../subscriptions/stand.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/**
 * Closes the case of an invoice when nothing that has come due of its invoices is owed any more: as recovered, or as given up
 * where what was owed was written off.
 * @param of the subscription is locked by the caller
 */
export async function closeIfPaid(
  almanac: Almanac,
  { subscription, invoice }: { readonly subscription: Subscription; readonly invoice: Invoice },
  businessDate: string,
  within: Transaction,
  as: 'recovered' | 'given up' = 'recovered',
): Promise<void> {
  if (invoice.caseId === null) return;
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
    { state: as, closedOn: businessDate, nextRungOn: null, retryOn: null, retryAt: null },
    { transaction: within },
  );
  await standByDates(subscription, businessDate, within);
  await settleNeeds(almanac, within, `case:${open.id}`, businessDate);
}

/** Writes down the rung whose retry has collected, with the payment, so that a case it closes keeps what it climbed. */
export async function noteRungClimbed(
  almanac: Almanac,
  { caseId, rung }: Attempt,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  if (caseId === null || caseId === undefined || rung === null || rung === undefined) return;
  await almanac.db.rows(
    `insert into rungs_climbed (case_id, rung, climbed_on, did)
     values ($caseId, $rung, $businessDate, 'retried and collected') on conflict do nothing`,
    { caseId, rung, businessDate },
    within,
  );
}
