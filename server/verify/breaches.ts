import { DAY_SUMS_ANEW } from '../forecast/daySums.sql.ts';
import { BY_HAND_GRACE_DAYS } from '../../core/recovery/ladder.ts';

/**
 * The rules of "always true" that the database can answer alone. Each statement gives a row for every breach,
 * with a sentence that names it. What a constraint of the database makes impossible is not asked for: that a boundary is
 * invoiced once, that an invoice adds up and is not collected beyond its total, that an entry of the books balances, that a
 * rung is climbed and a letter written once.
 */
export const BREACHES: readonly { readonly rule: string; readonly statement: string }[] = [
  {
    rule: "every invoice's balance is its total less its payments and credit",
    statement: `
      select 'invoice ' || i.number || ' says ' || i.collected || ' collected, its payments sum to ' || coalesce(sum(p.amount), 0) as breach
      from invoices i left join payments p on p.invoice_id = i.id
      group by i.id having i.collected <> coalesce(sum(p.amount), 0)
      union all
      select 'invoice ' || number || ' is ' || state || ' with ' || (greatest(total, 0) - credit_used - collected) || ' owed'
      from invoices
      where (state = 'paid') <> (greatest(total, 0) - credit_used - collected = 0) and state not in ('withdrawn', 'written off', 'draft')`,
  },
  {
    rule: 'invoice numbers have no gap',
    statement: `
      select 'after number ' || number || ' comes ' || following as breach
      from (select number, lead(number) over (order by number) as following from invoices) as numbers
      where following <> number + 1 and following not in (select first_number from invoice_series)
      union all
      select 'the next number is ' || next_invoice_number || ' after ' || coalesce(max(number), 0)
      from business left join invoices on true
      group by next_invoice_number
      having next_invoice_number <> coalesce(max(number), 0) + 1
        and next_invoice_number not in (select first_number from invoice_series)`,
  },
  {
    rule: 'the dues of an invoice are its total',
    statement: `select 'invoice ' || i.number || ' is not the sum of its dues' as breach
      from invoices i join dues d on d.invoice_id = i.id group by i.id having sum(d.amount) <> greatest(i.total, 0) - i.credit_used`,
  },
  {
    rule: 'every attempt and its payment agree',
    statement: `
      select 'attempt ' || a.id || ' is ' || a.state || case when p.id is null then ' and has no payment' else ' and has a payment' end as breach
      from attempts a left join payments p on p.attempt_id = a.id
      where (a.state = 'collected') <> (p.id is not null) or a.amount <> p.amount`,
  },
  {
    rule: 'every overdue invoice has a case',
    statement: `
      select 'invoice ' || i.number || ' was due on ' || d.due_on || ' and has no case' as breach
      from open_dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id cross join business b
      where d.due_on < b.business_date - case s.collects when 'by hand' then ${BY_HAND_GRACE_DAYS + 1} else 0 end
        and not exists (select 1 from recovery_cases k where k.id = i.case_id and (k.state <> 'recovered' or not d.of_several))
        and s.state <> 'lapsed' and s.held_on is null
        and (s.without_method is distinct from 'wait' or exists (
               select 1 from payment_methods m where m.customer_id = s.customer_id and m.state = 'usable'
                 and (m.role <> 'own' or m.id = s.own_method_id) and m.expires_on >= b.business_date))
        and not exists (select 1 from attempts a where a.invoice_id = i.id and (a.state in ('under way', 'refused') or a.goes_on))
        and not exists (select 1 from payment_methods m join gateway_accounts g on g.id = m.gateway_account_id
                        where m.customer_id = i.customer_id and m.state <> 'replaced' and g.disconnected_on is not null)`,
  },
  {
    rule: 'no attempt stays between two methods',
    statement: `
      select 'attempt ' || a.id || ' was declined on ' || a.attempted_on || ', and the next method was never tried' as breach
      from attempts a cross join business b where a.goes_on and (a.state <> 'declined' or a.attempted_on < b.business_date)`,
  },
  {
    rule: 'a subscription has a method of its own customer, in use',
    statement: `
      select 'subscription ' || s.id || ' is charged with method ' || m.id || ', which is ' ||
        case when m.customer_id = s.customer_id then m.state else 'of another customer' end as breach
      from subscriptions s join payment_methods m on m.id = s.own_method_id
      where m.customer_id <> s.customer_id or m.state = 'replaced'`,
  },
  {
    rule: 'whether a customer has a method is as it is kept',
    statement: `
      select 'customer ' || c.id || case when c.has_method then ' has no method' else ' has a method' end || ', and is kept otherwise' as breach
      from customers c
      where c.has_method <> exists (
        select 1 from payment_methods m where m.customer_id = c.id and m.state <> 'replaced' and m.role = 'primary')`,
  },
  {
    rule: 'no case is open without a debt',
    statement: `
      select 'case ' || c.id || ' is open and nothing is owed' as breach from recovery_cases c
      where c.state = 'open'
        and not exists (select 1 from invoices i where i.case_id = c.id and i.state in ('issued', 'part-paid'))`,
  },
  {
    rule: 'a subscription is overdue exactly while its case is open',
    statement: `
      select 'subscription ' || s.id || ' is ' || s.state || case when c.id is null then ' and has no open case' else ' and has an open case' end as breach
      from subscriptions s left join recovery_cases c on c.subscription_id = s.id and c.state = 'open'
      where (s.state = 'overdue') <> (c.id is not null) and s.state <> 'ended'`,
  },
  {
    rule: 'what is left at an end is the credit of its customer',
    statement: `
      select 'subscription ' || s.id || ' ended with ' || (s.walk ->> 'credit') || ' left, and ' ||
        coalesce(k.amount::text, 'nothing') || ' is kept' as breach
      from subscriptions s left join customer_credits k on k.subscription_id = s.id
      where s.state = 'ended' and s.wake_on is null and coalesce(k.amount, 0) <> coalesce((s.walk ->> 'credit')::bigint, 0)`,
  },
  {
    rule: 'the sums of days are sums of what they are',
    statement: `
      select coalesce(k.kind, a.kind) || ' on ' || coalesce(k.on_day, a.on_day) || ' are kept as ' || coalesce(k.payments, 0) || ', ' ||
        coalesce(k.amount, 0) || ' ' || coalesce(k.currency, a.currency) || ', and are ' || coalesce(a.payments, 0) || ', ' || coalesce(a.amount, 0) as breach
      from (select on_day, kind, currency, sum(payments) as payments, sum(amount) as amount from day_sums group by 1, 2, 3) k
      full join (${DAY_SUMS_ANEW}) a on a.on_day = k.on_day and a.kind = k.kind and a.currency = k.currency
      where coalesce(k.payments, 0) <> coalesce(a.payments, 0) or coalesce(k.amount, 0) <> coalesce(a.amount, 0)`,
  },
  {
    rule: 'nobody got two recovery notices on one day',
    statement: `
      select 'customer ' || customer_id || ' got ' || count(*) || ' recovery notices on ' || written_on as breach
      from letters where event in ('payment declined', 'payment still declined', 'invoice overdue', 'last reminder', 'lapsed')
        and contact_id is null and once_key not like '%:contact:%'
      group by customer_id, merged_from, written_on having count(*) > 1`,
  },
  {
    rule: 'nobody lapsed without a letter before it',
    statement: `
      select 'subscription ' || c.subscription_id || ' lapsed in silence' as breach
      from recovery_cases c join subscriptions s on s.id = c.subscription_id
      where c.state = 'given up' and s.state = 'lapsed'
        and not exists (select 1 from letters l where l.case_id = c.id and l.written_on < c.closed_on)`,
  },
  {
    rule: 'every invoice, payment and write-off is in the books, with its amounts',
    statement: `
      with posted as (
        select l.invoice_id, l.payment_id, l.event, sum(l.amount) filter (where a.kind = 'receivable') as receivable,
          coalesce(sum(l.amount) filter (where a.kind = 'sales' and a.code = i.account), 0) as sales,
          coalesce(sum(l.amount) filter (where a.kind = 'sales'), 0) as all_sales,
          coalesce(sum(l.amount) filter (where a.kind = 'tax'), 0) as tax
        from journal_lines l join accounts a on a.id = l.account_id join invoices i on i.id = l.invoice_id
        group by l.entry_id, l.invoice_id, l.payment_id, l.event, i.id)
      select 'invoice ' || i.number || ' is not in the books as it was issued' as breach
      from invoices i left join posted p on p.invoice_id = i.id and p.event = 'invoice issued'
      where i.total <> 0 and i.state <> 'draft' and (p.invoice_id is null or p.all_sales <> -i.net or p.tax <> -i.tax
        or coalesce(p.receivable, 0) <> greatest(i.total, 0) - i.credit_used
        -- Where lines of other plans are on it, each account of sales has what its lines come to without tax, but for rounding.
        or (p.sales <> -i.net and not jsonb_path_exists(i.lines, '$[*].account'))
        or (p.sales <> -i.net and exists (
          select from (
              select coalesce(e ->> 'account', i.account) as code, count(*) as lines, sum((e ->> 'amount')::numeric *
                case when i.taxes -> (e ->> 'tax')::int ->> 'mode' = 'inclusive'
                  then 100 / (100 + (i.taxes -> (e ->> 'tax')::int ->> 'rate')::numeric) else 1 end) as net
              from jsonb_array_elements(i.lines) e group by 1) x
            where abs(x.net + coalesce((select sum(l.amount) from journal_lines l join accounts a on a.id = l.account_id
                where l.invoice_id = i.id and l.event = 'invoice issued' and a.kind = 'sales' and a.code = x.code), 0)) > x.lines)))
      union all
      select 'payment ' || m.id || ' is not in the books with its amount'
      from payments m left join posted p on p.payment_id = m.id where p.receivable is distinct from -m.amount
      union all
      select 'invoice ' || i.number || ' was written off and is not in the books as that'
      from invoices i left join posted p on p.invoice_id = i.id and p.event = 'written off'
      where i.state = 'written off' and coalesce(-p.receivable, 0) <> greatest(i.total, 0) - i.credit_used - i.collected`,
  },
  {
    rule: "the sum of the customers' balances is the receivable account",
    statement: `
      select 'customers owe ' || coalesce(owed, 0) || ' ' || currency || ' and the receivable account holds ' || coalesce(booked, 0) as breach
      from (select currency, sum(greatest(total, 0) - credit_used - collected) as owed
            from invoices where state not in ('withdrawn', 'written off', 'draft') group by 1) o
      full join (select l.currency, sum(l.amount) as booked from journal_lines l join accounts a on a.id = l.account_id
                 where a.kind = 'receivable' group by 1) b using (currency)
      where coalesce(owed, 0) <> coalesce(booked, 0)`,
  },
  {
    rule: 'the account of credit is what customers have at hand',
    statement: `
      select 'customers have ' || coalesce(at_hand, 0) || ' ' || currency || ' of credit and its account holds ' || coalesce(-booked, 0) as breach
      from (select (terms ->> 'currency')::char(3) as currency, sum((walk ->> 'credit')::bigint) as at_hand from subscriptions group by 1) c
      full join (select l.currency, sum(l.amount) as booked from journal_lines l join accounts a on a.id = l.account_id
                 where a.kind = 'credit' group by 1) b using (currency)
      where coalesce(at_hand, 0) <> coalesce(-booked, 0)`,
  },
];

/** So many breaches of a rule are named at most: nobody reads more, and a database that is all wrong is to be told as well. */
const MOST_NAMED = 1_000;

/** The statement of a rule, for its first breaches alone. */
export function firstOf(statement: string): string {
  return `select breach from (${statement}) as found limit ${MOST_NAMED}`;
}
