import type { Almanac } from '../almanac.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import type { CustomerRow } from './messages.ts';

/** One page of the customers: who they are, their subscriptions by state, what they owe. */
export function listCustomers(almanac: Almanac, query: ListQuery): Promise<Page<CustomerRow>> {
  return readPage<CustomerRow>(
    almanac.db,
    {
      select: `
        select c.id, c.reference, c.name, c.email, c.country, c.region, c.tax_exempt as "taxExempt", g.name as "group", coalesce(s.since, c.created_on) as "createdOn",
          coalesce(s.states, '{}') as states, s.subscription_id::text as "subscriptionId", s.plans,
          m.network || ' ending ' || m.last_four as card, m.state as "cardState", o.owed
        from customers c left join customer_groups g on g.id = c.group_id
        left join lateral (
          select array_agg(distinct s.state) as states, min(s.id) as subscription_id, min(s.starts_on) as since,
                 string_agg(distinct p.name, ', ') as plans
          from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
          where s.customer_id = c.id) s on true
        left join payment_methods m on m.customer_id = c.id and m.state <> 'replaced'
        left join lateral (
          select json_agg(json_build_object('currency', currency, 'amount', amount::text)) as owed
          from (select currency, sum(total - credit_used - collected) as amount from invoices i
                where i.customer_id = c.id and i.state in ('issued', 'part-paid') group by currency) sums) o on true
        where (c.name ilike $pattern or c.email ilike $pattern or c.reference ilike $pattern or g.name ilike $pattern)
          and ($state = '' or $state = any(s.states) or ($state = 'none' and s.states is null))`,
      bound: { pattern: likePattern(query.search), state: query.state },
      sorts: { name: 'name', email: 'email', since: '"createdOn"', plan: 'plans' },
    },
    query,
  );
}
