import type { Almanac } from '../almanac.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { readAll, readLongPage, type LongList } from '../http/longList.ts';
import { CUSTOMER_SEARCH, searchPatterns } from '../http/search.ts';
import type { CustomerRow } from './messages.ts';

const SHOWN = `
  select c.id::text, c.reference, c.name, c.email, c.country, c.region, c.tax_exempt as "taxExempt", g.name as "group",
    coalesce(c.since, c.created_on) as "createdOn",
    coalesce(s.states, '{}') as states, s.subscription_id::text as "subscriptionId", s.plans,
    m.network || ' ending ' || m.last_four as card, m.state as "cardState", o.owed
  from customers c left join customer_groups g on g.id = c.group_id
  left join lateral (
    select array_agg(distinct s.state) as states, min(s.id) as subscription_id, string_agg(distinct p.name, ', ') as plans
    from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
    where s.customer_id = c.id) s on true
  left join payment_methods m on m.customer_id = c.id and m.state <> 'replaced' and m.role = 'primary'
  left join lateral (
    select json_agg(json_build_object('currency', currency, 'amount', amount::text)) as owed
    from (select currency, sum(owed) as amount from invoices i
          where i.customer_id = c.id and i.state in ('issued', 'part-paid') group by currency) sums) o on true
  where c.id = any($ids::bigint[])`;

type CustomerQuery = ListQuery & { readonly customerId?: string | undefined };

/** One page of the customers: who they are, their subscriptions by state, what they owe. */
export function listCustomers({ db }: Almanac, query: CustomerQuery): Promise<Page<CustomerRow>> {
  return readLongPage<CustomerRow>(db, customerList(query), query);
}

/** All customers that are asked for, some at a time. */
export function allCustomers({ db }: Almanac, query: CustomerQuery): AsyncIterable<CustomerRow[]> {
  return readAll<CustomerRow>(db, customerList(query), query);
}

function customerList({ search, state, customerId }: CustomerQuery): LongList {
  const ofState =
    state === 'none'
      ? 'not exists (select from subscriptions s where s.customer_id = c.id)'
      : 'exists (select from subscriptions s where s.customer_id = c.id and s.state = $state)';
  return {
    ...{ from: 'customers c', alias: 'c', shown: SHOWN },
    search: search === '' ? undefined : CUSTOMER_SEARCH,
    where: [
      ...(state === '' ? [] : [ofState]),
      ...(customerId === undefined ? [] : ['c.id = $customerId::bigint']),
    ],
    bound: { patterns: searchPatterns(search), state, customerId: customerId ?? '' },
    orders: {
      name: { by: ['c.name'] },
      email: { by: ['c.email'] },
      since: { by: ['coalesce(c.since, c.created_on)'] },
    },
  };
}
