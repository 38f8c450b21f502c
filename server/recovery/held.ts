import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import type { Climbing } from './climbing.ts';
import { isSuspended } from './suspensions.sql.ts';

/**
 * Whether a case waits for something that is no fault of its customer: the account that would charge the card cannot be
 * asked, the outcome of a charge is not known, a person is to see to one that was refused, or collecting is stopped. Then no
 * rung is climbed.
 */
export async function isHeld(
  almanac: Almanac,
  { opened, subscription, businessDate }: Climbing,
  within: Transaction,
): Promise<boolean> {
  const unsettled = await almanac.db.row(
    `select 1 from attempts a join invoices i on i.id = a.invoice_id
     where i.case_id = $caseId and (a.state = 'under way' or (a.state = 'refused' and exists (
       select 1 from needs n where n.once_key = 'refused:' || a.id and n.settled_on is null))) limit 1`,
    { caseId: opened.id },
    within,
  );
  if (unsettled || (await isSuspended(almanac, subscription.customerId, businessDate, within))) return true;
  if (subscription.collects === 'by hand') return false;
  const method = await methodInUse(subscription, within);
  if (method === null) return false;
  const account = await GatewayAccount.findByPk(method.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  return !account.well || almanac.gateways.troubleNow(account) !== null;
}
