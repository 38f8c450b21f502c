import { sayAmount } from '../../core/words/amount.ts';
import { money, type Money } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Climbing } from './climbing.ts';

interface Unpaid {
  readonly id: string;
  /** Minor units, digits only. */
  readonly balance: string;
}

/** The invoices of a case of which something has come due and is owed, oldest first. */
export function unpaidInvoices(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  within?: Transaction,
): Promise<Unpaid[]> {
  return almanac.db.rows<Unpaid>(
    `select i.id, sum(d.owed)::text as balance from invoices i join open_dues d on d.invoice_id = i.id
     where i.case_id = $caseId and (d.due_on <= $businessDate or not d.of_several)
     group by i.id order by min(d.due_on), i.id`,
    { caseId, businessDate },
    within,
  );
}

/** What is owed of a case, in the currency of its subscription. */
export async function owedOf(
  almanac: Almanac,
  { opened, subscription, businessDate }: Climbing,
  within: Transaction,
): Promise<Money> {
  const unpaid = await unpaidInvoices(almanac, opened.id, businessDate, within);
  const sum = unpaid.reduce((total, { balance }) => total + BigInt(balance), 0n);
  return money(sum, subscription.terms.currency);
}

/** The same in words, for staff. */
export async function sayOwed(almanac: Almanac, climbing: Climbing, within: Transaction): Promise<string> {
  const { minor, currency } = await owedOf(almanac, climbing, within);
  return sayAmount(minor, currency);
}
