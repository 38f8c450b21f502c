import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Customer } from './Customer.ts';
import type { LinksView } from './messages.ts';

/** Ends all links of a customer that are good still; letters from now on carry new ones. Gives how many ended. */
export async function endLinks(
  almanac: Pick<Almanac, 'db'>,
  customerId: string,
  why: string,
  within: Transaction,
): Promise<number> {
  const ended = await almanac.db.rows(
    `update customer_links set ended_at = now(), ended_why = $why
     where customer_id = $customerId and ended_at is null returning id`,
    { customerId, why },
    within,
  );
  return ended.length;
}

/** The same, on the word of staff: a letter came into other hands. */
export function revokeLinks(almanac: Almanac, customerId: string): Promise<{ ended: number }> {
  return almanac.db.transaction(async (within) => {
    const customer = await Customer.findByPk(customerId, { transaction: within });
    if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
    const ended = await endLinks(almanac, customerId, 'we ended it', within);
    await recordDone(
      almanac,
      { did: 'ended a customer’s links', subject: customer.name, after: { ended } },
      within,
    );
    return { ended };
  });
}

/** How many links of a customer are good still. */
export async function countLinks(almanac: Almanac, customerId: string): Promise<LinksView> {
  const found = await almanac.db.row<LinksView>(
    `select count(*)::int as good from customer_links
     where customer_id = $customerId and ended_at is null and expires_on >= $today`,
    { customerId, today: await businessDateOf(almanac) },
  );
  return found ?? { good: 0 };
}
