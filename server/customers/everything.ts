import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Customer } from './Customer.ts';
import { everythingRows } from './everything.sql.ts';

/** All that is held about a customer, for them to have; who took it stands on the audit. Amounts are in minor units. */
export async function everythingOf(almanac: Almanac, id: string): Promise<object> {
  const customer = await Customer.findByPk(id);
  if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
  await recordDone(almanac, { did: 'took all that is held about a customer', subject: customer.name });
  return { asOf: await businessDateOf(almanac), ...(await everythingRows(almanac, id)) };
}
