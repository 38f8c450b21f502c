import type { Transaction } from 'sequelize';
import { MOST_RUNGS } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import type { Attempt } from '../payments/Attempt.ts';
import type { AttemptReason } from '../payments/attemptReason.ts';
import type { Means } from '../payments/meansKinds.ts';
import { standByDates } from '../subscriptions/stand.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import type { ClosedHow } from './closedHow.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/** What a case that is closed has nothing of any more. */
export const CLOSED = { nextRungOn: null, retryOn: null, retryAt: null, asideUntil: null };

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
  as: 'recovered' | 'written off' = 'recovered',
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
    {
      ...CLOSED,
      state: as === 'recovered' ? as : 'given up',
      closedOn: businessDate,
      closedHow: as === 'recovered' ? await paidHow(almanac, open, businessDate, within) : as,
    },
    { transaction: within },
  );
  await standByDates(subscription, businessDate, within);
  await settleCaseNeeds(almanac, open, businessDate, within);
}

/** What a person was to see to of a case that is closed is off the day sheet: the card to be replaced, tasks of its rungs. */
export async function settleCaseNeeds(
  almanac: Pick<Almanac, 'db'>,
  { id, leg }: RecoveryCase,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const rungs = Array.from({ length: (leg + 1) * MOST_RUNGS }, (_, i) =>
    keyOfRung(id, { leg: Math.floor(i / MOST_RUNGS), rung: i % MOST_RUNGS }),
  );
  await almanac.db.rows(
    'update needs set settled_on = $businessDate where once_key = any($keys) and settled_on is null',
    { businessDate, keys: [`case:${id}`, keyOfSilence(id), ...rungs] },
    within,
  );
}

/** Names that nobody was written to of a case that is at its end. */
export const keyOfSilence = (caseId: string) => `case:${caseId}:silence`;

/** Names what a rung asks of a person, or tells staff: done once. */
export const keyOfRung = (caseId: string, { leg, rung }: { readonly leg: number; readonly rung: number }) =>
  `case:${caseId}:leg:${leg}:rung:${rung}`;

/** By what a case was paid: the last thing that came in for it on that day, or else credit. */
async function paidHow(
  almanac: Almanac,
  { id }: RecoveryCase,
  businessDate: string,
  within: Transaction,
): Promise<ClosedHow> {
  const last = await almanac.db.row<{ reason: AttemptReason; means: Means }>(
    `select a.reason, a.means from attempts a join invoices i on i.id = a.invoice_id
     where i.case_id = $id and a.state = 'collected' and a.attempted_on = $businessDate order by a.settled_at desc, a.id desc limit 1`,
    { id, businessDate },
    within,
  );
  if (!last) return 'credit';
  if (last.means !== 'gateway') return last.means;
  return last.reason === 'renewal' ? 'retry' : last.reason;
}

/** Writes down the rung whose retry has collected, with the payment, so that a case it closes keeps what it climbed. */
export async function noteRungClimbed(
  almanac: Almanac,
  { caseId, rung, leg }: Attempt,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  if (caseId === null || caseId === undefined || rung === null || rung === undefined) return;
  await almanac.db.rows(
    `insert into rungs_climbed (case_id, leg, rung, ladder_id, climbed_on, did)
     select id, $leg, $rung, ladder_id, $businessDate, 'retried and collected' from recovery_cases where id = $caseId
     on conflict do nothing`,
    { caseId, rung, leg, businessDate },
    within,
  );
}
