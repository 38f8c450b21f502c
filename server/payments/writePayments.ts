import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { paymentCollected, type MoneyAt } from '../books/entries.ts';
import { JOURNAL, readyToPost } from '../books/post.ts';
import { unnested } from '../db/unnested.ts';

/** Money that came in for an invoice, by an attempt. */
export interface PaymentToWrite {
  readonly invoiceId: string;
  readonly attemptId: string;
  /** Minor units of the invoice's currency, above zero. */
  readonly amount: bigint;
  readonly currency: string;
  readonly paidOn: string;
  /** Where the money is; without it, at the gateway. */
  readonly at?: MoneyAt;
}

/**
 * Writes payments, what their invoices have collected by them, and their entries in the books: the one place where money
 * that came in is written. The invoices are locked by the caller.
 * @returns the numbers of the payments, in the order given
 */
export async function writePayments(
  almanac: Almanac,
  payments: readonly PaymentToWrite[],
  within: Transaction,
): Promise<string[]> {
  if (payments.length === 0) return [];
  const { table, bound } = unnested(
    { invoice_id: 'bigint', attempt_id: 'bigint', amount: 'bigint', currency: 'text', paid_on: 'date' },
    payments.map(({ invoiceId, attemptId, amount, currency, paidOn }) => ({
      invoice_id: invoiceId,
      attempt_id: attemptId,
      amount,
      currency,
      paid_on: paidOn,
    })),
  );
  const posting = await readyToPost(
    almanac,
    payments.map(({ attemptId, ...payment }) => paymentCollected({ ...payment, id: attemptId })),
  );
  const written = await almanac.db.rows<{ id: string; attempt_id: string }>(
    `with paid as (
       insert into payments (invoice_id, attempt_id, amount, currency, paid_on)
       select invoice_id, attempt_id, amount, currency, paid_on from ${table} order by place
       returning id, invoice_id, attempt_id, amount),
     summed as (select invoice_id, sum(amount) as amount from paid group by 1),
     collected as (
       update invoices i set collected = i.collected + s.amount,
         state = case when s.amount >= i.owed then 'paid' when i.state = 'written off' then i.state else 'part-paid' end
       from summed s where i.id = s.invoice_id),
     posted as (
       insert into journal (${JOURNAL})
       select e.posted_on, e.event, e.currency, p.invoice_id, p.id, e.accounts::int[], e.amounts::bigint[]
       from (select * from ${posting.table}) e join paid p on p.attempt_id = e.payment_id order by e.place)
     select id::text, attempt_id::text from paid`,
    { ...bound, ...posting.bound },
    within,
  );
  const idOf = new Map(written.map(({ id, attempt_id }) => [attempt_id, id]));
  return payments.map(({ attemptId }) => {
    const id = idOf.get(attemptId);
    if (id === undefined) throw new Error(`The payment of attempt ${attemptId} was not written.`);
    return id;
  });
}
