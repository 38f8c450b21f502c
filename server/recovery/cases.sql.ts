import type { Bound } from '../db/database.ts';
import type { LongList } from '../http/longList.ts';
import { searchBySubscription, searchPatterns } from '../http/search.ts';
import type { CaseQuery } from './messages.ts';

/** What is owed on cases: of the few invoices that are open. */
const OWED = `left join (
  select i.case_id, sum(d.owed) as owed from open_dues d join invoices i on i.id = d.invoice_id
  where i.case_id is not null and (d.due_on <= $today::date or not d.of_several) group by 1) o on o.case_id = k.id`;

/** What is owed of the case `k`: invoice by invoice, since then only what is open of these is looked at, and not of everybody. */
const OWED_OF = `(select coalesce(sum(owed), 0) from (
  select (select sum(d.owed) from open_dues d
          where d.invoice_id = i.id and (d.due_on <= $today::date or not d.of_several)) as owed
  from invoices i where i.case_id = k.id) as open)`;

/** The code of the last decline of the case `k`. */
const LAST_CODE = `(select a.response_code from attempts a join invoices i on i.id = a.invoice_id
  where i.case_id = k.id and a.state = 'declined' order by a.id desc limit 1)`;

const KIND = {
  'by hand': `(select s.collects from subscriptions s where s.id = k.subscription_id) = 'by hand'`,
  debit: `${LAST_CODE} ~ '^[A-Z]'`,
} as const;

/** The cases that are asked for, as a long list. */
export function caseList(query: CaseQuery, today: string, homeCurrency: string): LongList {
  const { search, state, id, kind, plan, person, ladder, least, dated, from, until } = query;
  const day = { opened: 'k.opened_on', next: 'k.next_rung_on', closed: 'k.closed_on' }[dated];
  const conditions: (string | false)[] = [
    state !== '' && 'k.state = $state',
    id !== undefined && 'k.id::text = $id',
    (kind === 'by hand' || kind === 'debit') && KIND[kind],
    ['wait', 'soon', 'ask', 'never'].includes(kind) &&
      `k.decline_class = $kind and (select s.collects from subscriptions s where s.id = k.subscription_id) = 'automatic'`,
    plan !== '' &&
      `k.subscription_id in (select s.id from subscriptions s join rates r on r.id = s.rate_id where r.plan_id = $plan::bigint)`,
    person === 'nobody' && 'k.assigned_to is null',
    person !== 'nobody' && person !== '' && 'k.assigned_to = $person::bigint',
    ladder !== '' && 'k.ladder_id in (select l.id from ladders l where l.line_id = $ladder::bigint)',
    least !== '' &&
      `(select min(i.currency) from invoices i where i.case_id = k.id) = $home and ${OWED_OF} >= $least::bigint`,
    day !== undefined && from !== '' && `${day} >= $from::date`,
    day !== undefined && until !== '' && `${day} <= $until::date`,
  ];
  const where = conditions.filter((one): one is string => one !== false);
  const bound: Record<string, Bound> = {
    ...{ patterns: searchPatterns(search), state, id: id ?? '', kind, plan, person, ladder, least },
    ...{ from, until, today, home: homeCurrency },
  };
  return {
    ...{ from: 'recovery_cases k', alias: 'k', where, bound },
    search: search === '' ? undefined : searchBySubscription('k'),
    shown: `
      select k.id::text, k.state, k.opened_on as "openedOn", k.closed_on as "closedOn", k.closed_how as "closedHow",
        k.decline_class as "declineClass", k.class_from as "classFrom", k.passed, k.waited, k.last_rung as "lastRung",
        k.last_on as "lastOn", k.next_rung as "nextRung", k.next_rung_on as "nextRungOn", k.retry_on as "retryOn", k.retried,
        case when k.aside_until > $today::date then k.aside_until end as "asideUntil", k.assigned_to::text as "assignedTo", w.name as assigned,
        s.id::text as "subscriptionId", s.service_stopped_on as "serviceStoppedOn", s.collects,
        c.id::text as "customerId", c.name as customer, p.name as plan,
        l.name || ', version ' || l.version as ladder, l.rungs, l.final_action as "finalAction", l.final_after_days as "finalAfterDays", l.manner,
        l.line_id::text as "ladderId", l.version as "ladderVersion", not l.is_current as "hasNewer",
        ${LAST_CODE} as code, ${OWED_OF}::text as owed,
        (select min(currency) from invoices i where i.case_id = k.id) as currency,
        (select count(*)::int from attempts a join invoices i on i.id = a.invoice_id
         where i.case_id = k.id and a.state in ('declined', 'collected', 'under way') and a.means = 'gateway') as attempts,
        (select count(*)::int from letters t where t.case_id = k.id) as letters,
        (select max(t.written_on) from letters t where t.case_id = k.id) as "lastLetterOn",
        (select count(*)::int from attempts a join invoices i on i.id = a.invoice_id
         where i.case_id = k.id and a.state in ('declined', 'collected') and a.reason = 'retry') as retries
      from recovery_cases k join subscriptions s on s.id = k.subscription_id
      join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
      join ladders l on l.id = k.ladder_id left join people w on w.id = k.assigned_to
      where k.id = any($ids::bigint[])`,
    orders: {
      opened: { by: ['k.opened_on'] },
      customer: {
        by: ['c.name'],
        joins: 'join subscriptions s on s.id = k.subscription_id join customers c on c.id = s.customer_id',
      },
      next: { by: ['k.next_rung_on'], mayLack: true },
      owed: { by: ['coalesce(o.owed, 0)'], joins: OWED },
    },
  };
}

/** The invoices of a case of which something is owed that has come due. */
export const INVOICES_OF_CASE = `
  select i.id::text, i.prefix || i.number as number, sum(d.owed)::text as owed
  from invoices i join open_dues d on d.invoice_id = i.id
  where i.case_id = $id and (d.due_on <= $today::date or not d.of_several) group by i.id order by i.id`;

/** All that happened to a case, the oldest first: what it is made of, and never a sentence. */
export const MOMENTS_OF_CASE = `
  select * from (
    select a.attempted_on as on, coalesce(a.settled_at, a.sent_at) as at, a.state as kind, a.reason as what,
      jsonb_build_object('invoice', i.prefix || i.number, 'amount', a.amount::text, 'currency', i.currency, 'code', a.response_code,
        'card', m.network || ' ending ' || m.last_four, 'means', a.means, 'rung', case when a.case_id = i.case_id then a.rung end,
        'payment', p.id::text) as facts
    from attempts a join invoices i on i.id = a.invoice_id left join payment_methods m on m.id = a.payment_method_id
      left join payments p on p.attempt_id = a.id
    where i.case_id = $id and a.state in ('declined', 'collected', 'under way')
    union all
    select l.written_on, coalesce(l.sent_at, l.written_on::timestamptz), 'letter', l.event,
      jsonb_build_object('subject', l.subject, 'to', l.to_address, 'state', l.state, 'letter', l.id::text)
    from letters l where l.case_id = $id
    union all
    select r.climbed_on, null, 'rung', r.did,
      jsonb_build_object('rung', r.rung, 'leg', r.leg, 'rungs', jsonb_array_length(l.rungs), 'ladder', l.name, 'version', l.version)
    from rungs_climbed r join ladders l on l.id = r.ladder_id where r.case_id = $id
    union all
    select v.visited_on, v.visited_at, 'visit', '', '{}'
    from link_visits v join customer_links k on k.id = v.link_id where k.case_id = $id
    union all
    select n.written_on, n.written_at, n.kind, n.says, jsonb_build_object('by', n.written_by)
    from notes n where n.case_id = $id
    union all
    select d.given_on, d.given_at, 'card', d.channel, jsonb_build_object('card', m.network || ' ending ' || m.last_four)
    from recovery_cases k join subscriptions s on s.id = k.subscription_id
      join payment_methods m on m.customer_id = s.customer_id join mandates d on d.payment_method_id = m.id
    where k.id = $id and d.given_on between k.opened_on and coalesce(k.closed_on, d.given_on)
      and (m.role <> 'own' or m.id = s.own_method_id)
    union all
    select m.written_on, m.written_at, 'message', m.direction, jsonb_build_object('says', m.says, 'by', m.written_by)
    from recovery_cases k join customer_messages m on m.subscription_id = k.subscription_id
    where k.id = $id and m.direction = 'in' and m.written_on between k.opened_on and coalesce(k.closed_on, m.written_on)
  ) as moments order by "on", at nulls last`;
