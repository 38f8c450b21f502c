import { money, onDate } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { writeAbout } from '../notices/occasions.ts';
import type { Means } from '../payments/meansKinds.ts';
import { saidMeans } from '../notices/saidMeans.ts';

/** Writes to the customer that money was paid back to them, once it was. */
export async function tellOfRefund(
  almanac: Almanac,
  id: string,
  on: string,
  within: Transaction,
): Promise<void> {
  const refund = await almanac.db.row<{
    amount: string;
    currency: string;
    reason: string;
    means: Means;
    network: string | null;
    lastFour: string | null;
    subscriptionId: string | null;
    customerId: string;
    rateId: string | null;
  }>(
    `select f.amount::text, f.currency, f.reason, f.means, m.network, m.last_four as "lastFour", f.customer_id::text as "customerId",
       s.id::text as "subscriptionId", s.rate_id::text as "rateId"
     from refunds f left join attempts a on a.id = f.attempt_id left join payment_methods m on m.id = a.payment_method_id
     left join invoices i on i.id = a.invoice_id
     left join lateral (
       select s.id, s.rate_id from subscriptions s where s.customer_id = f.customer_id
       order by s.id = i.subscription_id desc nulls last, s.id desc limit 1) s on true
     where f.id = $id`,
    { id },
    within,
  );
  // Of a customer without a subscription there is nothing that a letter would be about.
  if (!refund?.subscriptionId || !refund.rateId) return;
  const { subscriptionId, customerId, rateId, means, currency, reason } = refund;
  await writeAbout(
    almanac,
    { id: subscriptionId, customerId, rateId },
    {
      ...{ event: 'refund', onceKey: `refund:${id}`, reason: 'Money was paid back' },
      says: {
        ...{ amount: money(BigInt(refund.amount), currency), date: onDate(on), reason },
        ...(means === 'gateway'
          ? { how: 'automatic', card: { network: refund.network ?? '', lastFour: refund.lastFour ?? '' } }
          : { how: 'by hand', period: saidMeans(means) }),
      },
    },
    on,
    within,
  );
}
