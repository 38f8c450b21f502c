import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from './Invoice.ts';

/** One dated part of an invoice that is not paid yet. */
export interface OpenDue {
  readonly invoiceId: string;
  readonly subscriptionId: string;
  readonly dueOn: string;
  /** Minor units. */
  readonly owed: string;
}

/**
 * What of an invoice is to be paid on a day, in minor units: all of it where it has one due; of several dues those that
 * have come, or else the next.
 */
export async function dueOf(
  almanac: Almanac,
  invoice: Invoice,
  businessDate: string,
  within: Transaction,
): Promise<bigint> {
  const dues = await almanac.db.rows<{ due_on: string; owed: string; of_several: boolean }>(
    'select due_on, owed, of_several from open_dues where invoice_id = $id order by place',
    { id: invoice.id },
    within,
  );
  if (!dues.some(({ of_several }) => of_several)) return invoice.owed;
  const come = dues.filter(({ due_on }) => due_on <= businessDate);
  return (come.length > 0 ? come : dues.slice(0, 1)).reduce((sum, { owed }) => sum + BigInt(owed), 0n);
}

/** The dues to come of invoices that stand for several payments, of some subscriptions. */
export function duesAhead(
  almanac: Almanac,
  subscriptionIds: readonly string[],
  within?: Transaction,
): Promise<OpenDue[]> {
  return almanac.db.rows<OpenDue>(
    `select i.id::text as "invoiceId", i.subscription_id::text as "subscriptionId", d.due_on as "dueOn", d.owed::text as owed
     from open_dues d join invoices i on i.id = d.invoice_id
     where d.of_several and d.invoice_id = any(array(
       select id from invoices where subscription_id = any($subscriptionIds::bigint[]) and state in ('issued', 'part-paid')))
     order by d.due_on, d.place`,
    { subscriptionIds },
    within,
  );
}
