/** How many of the latest declines are looked at. */
export const MOST_DECLINES = 10_000;

/**
 * The latest cases that a declined charge opened, of subscriptions that are charged by themselves: the first decline, what was
 * owed, the letters, and by what it was over. A suspension, or staff who charge or credit, say nothing of a ladder or a letter.
 */
export const PAST_DECLINES = `
  select k.id::text, k.opened_on as "failedOn", d.response_code as code, d.amount, d.currency,
    coalesce(k.closed_on, $today::date) as "overOn", k.state, k.closed_how as "closedHow",
    coalesce((select r.ladder_id from rungs_climbed r where r.case_id = k.id and r.leg = 0 limit 1), k.ladder_id)::text as "ladderId",
    (select coalesce(array_agg(to_char(l.written_on, 'YYYY-MM-DD') order by l.written_on), '{}') from letters l
     where l.case_id = k.id and l.event in ('payment declined', 'payment still declined', 'last reminder')
       and l.state <> 'undeliverable') as "lettersOn"
  from recovery_cases k join subscriptions s on s.id = k.subscription_id and s.collects = 'automatic'
  join lateral (
    select a.response_code, i.currency, (
      select sum(first.amount)::text from (
        select distinct on (b.invoice_id) b.amount from attempts b join invoices j on j.id = b.invoice_id
        where j.case_id = k.id and b.state = 'declined' order by b.invoice_id, b.id) first) as amount
    from attempts a join invoices i on i.id = a.invoice_id
    where i.case_id = k.id and a.state = 'declined' order by a.id limit 1) d on true
  order by k.opened_on desc, k.id desc limit ${MOST_DECLINES}`;

/** The retries of these cases, each with the decline that it followed and whether that was of the same card. */
export const PAST_RETRIES = `
  select * from (
    select i.case_id::text as "caseId", a.attempted_on as "on", a.state = 'collected' as collected, a.reason,
      lag(a.response_code) over each as code,
      lag(a.payment_method_id) over each = a.payment_method_id as "isSameCard",
      count(*) filter (where a.reason = 'retry') over (partition by i.case_id order by a.id) as retry
    from attempts a join invoices i on i.id = a.invoice_id
    where i.case_id = any($ids::bigint[]) and a.state in ('collected', 'declined') and a.means = 'gateway'
    window each as (partition by a.invoice_id order by a.id)) tried
  where reason = 'retry' and "isSameCard" and code is not null order by "on"`;

export const LADDERS_OF = `
  select id::text, rungs, final_action as "finalAction", final_after_days as "finalAfterDays", manner
  from ladders where id = any($ids::bigint[])`;
