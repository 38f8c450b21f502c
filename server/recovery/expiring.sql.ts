import { isOfSubscription } from '../customers/inTurn.ts';

/** Subscriptions `s` that go on and would be charged with the method `m` first. */
const CHARGED_WITH = `s.collects = 'automatic' and s.state in ('scheduled', 'trial', 'active', 'overdue', 'paused')
  and s.next_on is not null and ${isOfSubscription('m', 's')} and m.role <> 'fallback'
  and (m.id = s.own_method_id or s.own_method_id is null)`;

/**
 * Cards whose last month has begun, of which their customers have not been written to: asked about on any day of it, so that a card
 * that comes in meanwhile is not forgotten.
 */
export const CARDS_TO_TELL = `
  select m.id::text as item from payment_methods m
  where m.state = 'usable' and m.kind = 'card' and m.expiry_told is distinct from m.expires_on
    and m.expires_on >= $businessDate::date
    and m.expires_on < date_trunc('month', $businessDate::date) + interval '1 month'
    and exists (select from subscriptions s where s.customer_id = m.customer_id and ${CHARGED_WITH})
  order by m.id`;

/** The subscription that a card is asked for first, whose link its letter carries. */
export const FIRST_CHARGED = `
  select s.id::text, s.next_on as "nextOn" from payment_methods m join subscriptions s on s.customer_id = m.customer_id and ${CHARGED_WITH}
  where m.id = $id order by s.next_on, s.id limit 1`;

/** Cards that expire within some months, or did, of subscriptions that go on. */
export const EXPIRING_CARDS = `
  select * from (
    select m.id::text, c.id::text as "customerId", c.name as customer, m.network || ' ending ' || m.last_four as card,
      m.expires_on as "expiresOn", m.expiry_told_on as "toldOn", n.next_on as "nextOn", n.id::text as "subscriptionId",
      n.amount::text as "nextAmount", n.currency, n.others,
      case when m.expires_on < $today::date then 'expired'
           when m.expires_on < date_trunc('month', $today::date) + interval '1 month' then 'this month'
           when m.expires_on < date_trunc('month', $today::date) + interval '2 months' then 'next month'
           else 'later' end as state
    from payment_methods m join customers c on c.id = m.customer_id
    cross join lateral (
      select (array_agg(s.next_on order by s.next_on, s.id))[1] as next_on, (array_agg(s.id order by s.next_on, s.id))[1] as id,
        (array_agg(s.next_amount order by s.next_on, s.id))[1] as amount,
        (array_agg(s.terms ->> 'currency' order by s.next_on, s.id))[1] as currency, count(*)::int - 1 as others
      from subscriptions s where s.customer_id = m.customer_id and ${CHARGED_WITH}) n
    where m.kind = 'card' and m.state in ('usable', 'needs-customer') and n.id is not null
      and m.expires_on < date_trunc('month', $today::date) + interval '4 months') as cards
  where ($state = '' or state = $state)
    and ($from = '' or "expiresOn" >= $from::date) and ($until = '' or "expiresOn" <= $until::date)
    and (customer ilike $pattern or card ilike $pattern)`;
