import { DAY_SUMS_ANEW } from '../forecast/daySums.sql.ts';
import { BY_HAND_GRACE_DAYS, MOST_ATTEMPTS } from '../../core/recovery/ladder.ts';

/**
 * The rules of "always true" that the database can answer alone. Each statement gives a row for every breach,
 * with a sentence that names it. What a constraint of the database makes impossible is not asked for: that a boundary is
 * invoiced once, that an invoice adds up and is not collected beyond its total, that an entry of the books balances, that a
 * rung is climbed and a letter written once.
 */
export const BREACHES: readonly { readonly rule: string; readonly statement: string }[] = [
  {
    rule: "every invoice's balance is its total less its payments, credit and credit notes",
    statement: `
      select 'invoice ' || i.number || ' says ' || i.collected || ' collected, its payments sum to ' || coalesce(p.amount, 0) as breach
      from invoices i left join (select invoice_id, sum(amount) as amount from payments group by 1) p on p.invoice_id = i.id
      where i.collected <> coalesce(p.amount, 0)
      union all
      select 'invoice ' || i.number || ' says ' || i.credit_used || ' of credit was used, and it was ' || coalesce(m.amount, 0)
      from invoices i left join (select invoice_id, -sum(amount) as amount from credit_moves where why = 'used' group by 1) m on m.invoice_id = i.id
      where i.credit_used <> coalesce(m.amount, 0)
      union all
      select 'invoice ' || i.number || ' says ' || i.credited || ' was credited, its credit notes come to ' || coalesce(n.amount, 0)
      from invoices i left join (select invoice_id, sum(set_off) as amount from credit_notes group by 1) n on n.invoice_id = i.id
      where i.credited <> coalesce(n.amount, 0)
      union all
      select 'invoice ' || number || ' is ' || state || ' with ' || owed || ' owed'
      from invoices where (state in ('paid', 'withdrawn')) <> (owed = 0) and state not in ('written off', 'draft')`,
  },
  {
    rule: 'an invoice is credited at most once, and in full where it is taken back',
    statement: `
      select 'invoice ' || i.number || ' of ' || i.total || ' was credited with ' || sum(n.total) as breach
      from invoices i join credit_notes n on n.invoice_id = i.id group by i.id having sum(n.total) > i.total or sum(n.tax) > i.tax
      union all
      select 'invoice ' || i.number || ' was taken back before its period, and is not credited in full'
      from invoices i where i.taken_back
        and i.total <> (select coalesce(sum(n.total), 0) from credit_notes n where n.invoice_id = i.id)`,
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
        and next_invoice_number not in (select first_number from invoice_series)
      union all
      select 'credit note ' || number || ' is not followed by the next number'
      from (select number, lead(number) over (order by number) as following from credit_notes) as numbers
      where following <> number + 1
      union all
      select 'the next number of credit notes is ' || next_credit_note_number || ' after ' || coalesce(max(number), 0)
      from business left join credit_notes on true group by next_credit_note_number
      having next_credit_note_number <> coalesce(max(number) + 1, next_credit_note_number)`,
  },
  {
    rule: 'the dues of an invoice are its total',
    statement: `select 'invoice ' || i.number || ' is not the sum of its dues' as breach
      from invoices i join dues d on d.invoice_id = i.id group by i.id having sum(d.amount) <> greatest(i.total, 0)`,
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
        and not exists (select 1 from suspensions p where (p.customer_id is null or p.customer_id = i.customer_id)
                        and b.business_date between p.from_on and coalesce(p.ended_on, p.until_on))
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
        and contact_id is null and once_key not like '%:contact:%' and copy_of is null and state <> 'taken back'
      group by customer_id, merged_from, written_on having count(*) > 1`,
  },
  {
    rule: 'nobody lapsed without a letter before it',
    statement: `
      select 'subscription ' || c.subscription_id || ' lapsed in silence' as breach
      from recovery_cases c join subscriptions s on s.id = c.subscription_id
      where c.state = 'given up' and (s.state = 'lapsed' or s.ended_why = 'given up')
        and not exists (select 1 from letters l where l.case_id = c.id and l.written_on < c.closed_on and l.state not in ('held', 'taken back'))`,
  },
  {
    rule: 'nobody got a recovery notice after it was paid',
    statement: `
      select 'letter ' || l.id || ' was written on ' || l.written_on || ', after its case was closed' as breach
      from letters l join recovery_cases k on k.id = l.case_id
      where l.event in ('payment declined', 'payment still declined', 'invoice overdue', 'last reminder')
        and l.written_on > k.closed_on and l.state <> 'taken back'`,
  },
  {
    rule: 'no invoice was tried more often than is allowed',
    statement: `
      with tried as (
        select invoice_id, id, attempted_on from attempts where means = 'gateway' and state in ('declined', 'collected')
          and invoice_id in (select invoice_id from attempts where means = 'gateway' group by 1 having count(*) > ${MOST_ATTEMPTS.attempts}))
      select 'invoice ' || i.number || ' was tried ' || count(*) || ' times in ${MOST_ATTEMPTS.days} days' as breach
      from tried a join tried b on b.invoice_id = a.invoice_id
          and b.attempted_on between a.attempted_on and a.attempted_on + ${MOST_ATTEMPTS.days - 1}
        join invoices i on i.id = a.invoice_id
      group by i.number, a.id having count(*) > ${MOST_ATTEMPTS.attempts}`,
  },
  {
    rule: 'a rung that was climbed is one of its ladder',
    statement: `
      select 'case ' || r.case_id || ' climbed rung ' || r.rung || ' of ' || jsonb_array_length(l.rungs) as breach
      from rungs_climbed r join ladders l on l.id = r.ladder_id join recovery_cases k on k.id = r.case_id
      where r.rung >= jsonb_array_length(l.rungs) or r.leg > k.leg or r.climbed_on < k.opened_on or r.climbed_on > k.closed_on`,
  },
  {
    rule: 'every invoice, credit note, payment, pay-out and write-off is in the books, with its amounts',
    statement: `
      with posted as (
        select l.invoice_id, l.payment_id, l.credit_note_id, l.refund_id, l.taking_id, l.event,
          sum(l.amount) filter (where a.kind = 'receivable') as receivable,
          sum(l.amount) filter (where a.kind = 'credit') as credit,
          coalesce(sum(l.amount) filter (where a.kind = 'sales' and a.code = i.account), 0) as sales,
          coalesce(sum(l.amount) filter (where a.kind = 'sales'), 0) as all_sales,
          coalesce(sum(l.amount) filter (where a.kind = 'tax'), 0) as tax
        from journal_lines l join accounts a on a.id = l.account_id left join invoices i on i.id = l.invoice_id
        group by l.entry_id, l.invoice_id, l.payment_id, l.credit_note_id, l.refund_id, l.taking_id, l.event, i.id),
      used as (select invoice_id, sum(receivable) as receivable from posted where event = 'credit used' group by 1),
      given_up as (select invoice_id, sum(receivable) as receivable from posted
                   where event in ('written off', 'write-off taken back') group by 1)
      select 'invoice ' || i.number || ' is not in the books as it was issued' as breach
      from invoices i left join posted p on p.invoice_id = i.id and p.event = 'invoice issued' left join used u on u.invoice_id = i.id
      where i.total <> 0 and i.state <> 'draft' and (p.invoice_id is null or p.all_sales <> -i.net or p.tax <> -i.tax
        or coalesce(p.receivable, 0) + coalesce(u.receivable, 0) <> greatest(i.total, 0) - i.credit_used
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
      select 'invoice ' || i.number || case when i.state = 'written off' then ' was' else ' is not' end ||
        ' written off and is not in the books as that'
      from invoices i left join given_up g on g.invoice_id = i.id
      where coalesce(-g.receivable, 0) <> case when i.state = 'written off' then i.owed else 0 end
      union all
      select 'credit note ' || n.number || ' is not in the books as it was issued'
      from credit_notes n left join posted p on p.credit_note_id = n.id
      where p.event is null or p.all_sales <> n.net or p.tax <> n.tax or coalesce(-p.receivable, 0) <> n.set_off or coalesce(-p.credit, 0) <> n.to_credit
      union all
      select 'what was taken as ' || t.id || ' and not owed is not in the books'
      from takings t left join posted p on p.taking_id = t.id where t.over <> coalesce(-p.credit, 0)
      union all
      select 'the pay-out ' || f.id || ' is ' || f.state || ' and is in the books otherwise'
      from refunds f left join (select refund_id, sum(credit) as credit from posted group by 1) p on p.refund_id = f.id
      where coalesce(p.credit, 0) <> case when f.state = 'failed' then 0 else f.amount end`,
  },
  {
    rule: "the sum of the customers' balances is the receivable account",
    statement: `
      select 'customers owe ' || coalesce(owed, 0) || ' ' || currency || ' and the receivable account holds ' || coalesce(booked, 0) as breach
      from (select currency, sum(owed) as owed
            from invoices where state not in ('withdrawn', 'written off', 'draft') group by 1) o
      full join (select l.currency, sum(l.amount) as booked from journal_lines l join accounts a on a.id = l.account_id
                 where a.kind = 'receivable' group by 1) b using (currency)
      where coalesce(owed, 0) <> coalesce(booked, 0)`,
  },
  {
    rule: "a customer's credit is the sum of what moved it, and all of it is the account of credit",
    statement: `
      select 'customer ' || coalesce(b.customer_id, m.customer_id) || ' has ' || coalesce(b.credit, 0) || ' ' ||
        coalesce(b.currency, m.currency) || ' of credit, and what moved it comes to ' || coalesce(m.amount, 0) as breach
      from credit_balances b
      full join (select customer_id, currency, sum(amount) as amount from credit_moves group by 1, 2) m using (customer_id, currency)
      where coalesce(b.credit, 0) <> coalesce(m.amount, 0)
      union all
      select 'customers have ' || coalesce(at_hand, 0) || ' ' || currency || ' of credit and its account holds ' || coalesce(-booked, 0)
      from (select currency, sum(credit) as at_hand from credit_balances group by 1) c
      full join (select l.currency, sum(l.amount) as booked from journal_lines l join accounts a on a.id = l.account_id
                 where a.kind = 'credit' group by 1) b using (currency)
      where coalesce(at_hand, 0) <> coalesce(-booked, 0)
      union all
      select 'subscription ' || id || ' keeps ' || (walk ->> 'credit') || ' of credit that is its customer''s'
      from subscriptions where (walk ->> 'credit')::bigint <> 0`,
  },
  {
    rule: 'what was taken by hand is what it paid for, and what was over',
    statement: `
      select 'what was taken as ' || t.id || ' is ' || t.amount || ', and ' || coalesce(sum(p.amount), 0) + t.over || ' of it is booked' as breach
      from takings t left join attempts a on a.taking_id = t.id left join payments p on p.attempt_id = a.id
      group by t.id having t.amount <> coalesce(sum(p.amount), 0) + t.over`,
  },
  {
    rule: 'no payment is paid back beyond what came in',
    statement: `
      select 'payment ' || p.id || ' of ' || p.amount || ' was paid back with ' || sum(f.amount) as breach
      from payments p join refunds f on f.attempt_id = p.attempt_id and f.state <> 'failed'
      group by p.id having sum(f.amount) > p.amount`,
  },
];

/** So many breaches of a rule are named at most: nobody reads more, and a database that is all wrong is to be told as well. */
const MOST_NAMED = 1_000;

/** The statement of a rule, for its first breaches alone. */
export function firstOf(statement: string): string {
  return `select breach from (${statement}) as found limit ${MOST_NAMED}`;
}
