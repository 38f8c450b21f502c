import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

/** So many days after a customer was asked for a method they are reminded, while there is none. */
export const REMINDED_AFTER = [3, 7, 14] as const;
/** After so many it stands on the day sheet: somebody calls. */
export const CALLED_AFTER = 21;

/** Names one letter that asks for a method, of a question that was put on a day: the first (0), or a reminder. */
export const onceOfRequest = (customerId: string, askedOn: string, after: number) =>
  `method asked:${customerId}:${askedOn}:${after}`;
/** Names that somebody was asked in vain. */
export const onceInVain = (customerId: string) => `no method:${customerId}`;

/** Customers who were asked for a method so long ago that they are reminded, or called, and who still have none. */
export const METHODS_TO_REMIND = `
  select c.id::text as item from customers c
  where c.method_asked_on is not null
    and exists (select from subscriptions s where s.customer_id = c.id and s.state not in ('lapsed', 'ended')
                  and s.collects = 'automatic')
    and case when c.method_asked_on + ${CALLED_AFTER} <= $businessDate::date
      then not exists (select from needs where once_key = 'no method:' || c.id and arose_on >= c.method_asked_on)
      else exists (select from unnest(array[${REMINDED_AFTER.join(', ')}]) d (days)
                   where c.method_asked_on + d.days <= $businessDate::date
                     and not exists (select from letters
                                     where once_key = 'method asked:' || c.id || ':' || c.method_asked_on || ':' || d.days)
                     and not exists (select from unnest(array[${REMINDED_AFTER.join(', ')}]) later (days)
                                     where later.days > d.days and c.method_asked_on + later.days <= $businessDate::date))
      end
  order by c.id`;

/** What decides whether a customer may be asked for a method. */
export interface AskFacts {
  readonly customerId: string;
  readonly customer: string;
  /** They were written to about it on that day. */
  readonly wasAsked: boolean;
  /** They subscribe to something that is charged by itself and runs. */
  readonly runs: boolean;
  /** They have a card that can be charged on a day. */
  readonly canCharge: boolean;
}

/** The facts of some customers on a day, in the order of their numbers. */
export function askFactsOf(
  { db }: Almanac,
  customerIds: readonly string[],
  businessDate: string,
  within?: Transaction,
): Promise<AskFacts[]> {
  return db.rows(
    `select c.id::text as "customerId", c.name as customer,
       exists (select from letters where once_key = 'method asked:' || c.id || ':' || $businessDate::date || ':0') as "wasAsked",
       exists (select from subscriptions s where s.customer_id = c.id and s.state not in ('lapsed', 'ended')
                 and s.collects = 'automatic') as runs,
       exists (select from payment_methods m where m.customer_id = c.id and m.state = 'usable' and m.role <> 'own'
                 and m.expires_on >= $businessDate::date) as "canCharge"
     from customers c where c.id = any($customerIds::bigint[]) order by c.id`,
    { customerIds, businessDate },
    within,
  );
}

/** What is open of a customer up to a day of what is charged by itself, by currency; minor units. */
export function openOf(
  { db }: Almanac,
  customerId: string,
  businessDate: string,
  within: Transaction,
): Promise<{ readonly currency: string; readonly owed: string }[]> {
  return db.rows(
    `select i.currency, sum(d.owed)::text as owed
     from invoices i join open_dues d on d.invoice_id = i.id join subscriptions s on s.id = i.subscription_id
     where i.customer_id = $customerId and d.due_on <= $businessDate and s.collects = 'automatic'
     group by i.currency order by i.currency`,
    { customerId, businessDate },
    within,
  );
}
