import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Means } from '../payments/meansKinds.ts';

/** A payment that came in, as far as it can go back. */
export interface Refundable {
  readonly attemptId: string;
  readonly customerId: string;
  readonly subscriptionId: string;
  readonly invoiceId: string;
  readonly invoice: string;
  readonly currency: string;
  readonly means: Means;
  readonly amount: string;
  /** What of it did not go back yet, in minor units. */
  readonly left: string;
  readonly gatewayCharge: string | null;
  readonly disconnected: boolean;
  /** 'Larkfield ending 0019'. */
  readonly card: string | null;
}

const REFUNDABLE = `
  select a.id::text as "attemptId", i.customer_id::text as "customerId", i.subscription_id::text as "subscriptionId",
    i.id::text as "invoiceId", i.prefix || i.number as invoice, i.currency, a.means, p.amount::text as amount,
    (p.amount - coalesce((select sum(f.amount) from refunds f where f.attempt_id = a.id and f.state <> 'failed'), 0))::text as left,
    a.gateway_charge as "gatewayCharge", coalesce(g.disconnected_on is not null, false) as disconnected,
    case when m.last_four <> '' then m.network || ' ending ' || m.last_four else m.network end as card
  from payments p join attempts a on a.id = p.attempt_id join invoices i on i.id = p.invoice_id
  left join payment_methods m on m.id = a.payment_method_id left join gateway_accounts g on g.id = a.gateway_account_id`;

/** A payment by its attempt, or null where none came of it. */
export function refundable(
  { db }: Almanac,
  attemptId: string,
  within?: Transaction,
): Promise<Refundable | null> {
  return db.row<Refundable>(`${REFUNDABLE} where a.id = $attemptId`, { attemptId }, within);
}

/** The payments of a customer that credit can go back by, the latest first. */
export function refundablesOf({ db }: Almanac, customerId: string): Promise<Refundable[]> {
  return db.rows<Refundable>(
    `select * from (${REFUNDABLE} where i.customer_id = $customerId and a.means = 'gateway') paid
     where "left"::bigint > 0 and not disconnected order by "attemptId"::bigint desc limit 20`,
    { customerId },
  );
}
