/**
 * The cases that were opened from a day on, put together where they are alike. Failed is what was owed of their invoices on the day
 * of the failure; recovered is what was paid of it from that day on, by whatever way.
 */
export const CASE_FACTS = `
  with one as (
    select k.id, to_char(k.opened_on, 'YYYY-MM') as month, k.opened_on, k.closed_on, k.state, k.closed_how,
      coalesce(l.name, '') as ladder,
      (select count(*)::int from rungs_climbed r where r.case_id = k.id) as rungs,
      case when s.collects = 'by hand' then 'by hand' else (
        select a.response_code from attempts a join invoices i on i.id = a.invoice_id
        where i.case_id = k.id and a.state = 'declined' order by a.id limit 1) end as code,
      i.currency, i.billed - i.before as failed, i.since as recovered
    from recovery_cases k join subscriptions s on s.id = k.subscription_id join ladders l on l.id = k.ladder_id
    cross join lateral (
      select min(i.currency) as currency, sum(greatest(i.total, 0) - i.credit_used) as billed,
        coalesce(sum(p.before), 0) as before, coalesce(sum(p.since), 0) as since
      from invoices i cross join lateral (
        select sum(p.amount) filter (where p.paid_on < k.opened_on) as before,
          sum(p.amount) filter (where p.paid_on >= k.opened_on) as since
        from payments p where p.invoice_id = i.id) p
      where i.case_id = k.id) i
    where k.opened_on >= $from::date and i.currency is not null)
  select month, code, ladder, rungs, currency, state,
    case when state = 'open' then null else coalesce(closed_how, 'other') end as how,
    case when state = 'open' then null else closed_on - opened_on end as days,
    count(*)::int as cases, sum(failed)::text as failed, sum(recovered)::text as recovered
  from one group by 1, 2, 3, 4, 5, 6, 7, 8 order by 1, 2 nulls last, 3, 4`;
