import type { Almanac } from '../almanac.ts';

/**
 * What is held about a customer, part by part, each with the statement of its rows for `$id`. Tokens of cards and the
 * secrets of links are no facts about a person, and stand in none of it.
 */
export const PARTS: Readonly<Record<string, string>> = {
  customer: `
    select c.id::text, c.reference, c.name, c.email, c.phone, c.organisation, c.address, c.postcode, c.shipping, c.fields, c.country, c.region,
      c.language, c.tax_number, c.tax_exempt, c.receipts, c.receipts_why, c.stopped_letters, g.name as "group", c.created_on, c.since, c.method_asked_on, c.erased_on
    from customers c left join customer_groups g on g.id = c.group_id where c.id = $id`,
  contacts: `
    select k.id::text, k.name, k.email, k.phone, k.role, k.letters, k.receipts, k.receipts_why, k.added_on from contacts k where k.customer_id = $id order by k.id`,
  files: `
    select f.name, f.media_type, f.size, f.added_on, f.added_by, f.subscription_id::text from customer_files f
    where f.customer_id = $id order by f.id`,
  numbers_before: `
    select k.reference from merged_references k where k.customer_id = $id order by k.reference`,
  notes: `
    select n.says, n.written_on, n.written_by, n.subscription_id::text from notes n where n.customer_id = $id order by n.id`,
  payment_methods: `
    select m.id::text, m.kind, m.holder, m.network, m.last_four, m.expires_year, m.expires_month, m.state, m.role, m.added_on, m.checked_on, m.check_code
    from payment_methods m where m.customer_id = $id order by m.id`,
  mandates: `
    select d.id::text, d.payment_method_id::text, d.agreed_text, d.channel, d.given_on, d.given_at, d.address, d.agent, d.withdrawn_on, d.withdrawn_by,
      p.kind || ', version ' || p.version as policy
    from mandates d join payment_methods m on m.id = d.payment_method_id left join policies p on p.id = d.policy_id
    where m.customer_id = $id order by d.id`,
  subscriptions: `
    select s.id::text, s.reference, p.name as plan, r.name as rate, s.state, s.ended_why, s.starts_on, s.ends_on, s.closed_on, s.served_at,
      s.enrolled_on, s.collects, s.own_method_id::text, s.terms, s.extras, s.answers, s.invoice_fields
    from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
    where s.customer_id = $id order by s.id`,
  agreements: `
    select a.subscription_id::text, a.channel, a.agreed_on, a.agreed_at, a.agreed_by, a.address, a.agent, a.no_tax_because, a.asks_terms, a.terms_agreed_on, a.terms_address, a.terms_agent,
      p.kind || ', version ' || p.version as policy, k.says, k.dues
    from agreements a join subscriptions s on s.id = a.subscription_id left join policies p on p.id = a.policy_id
      left join reckonings k on k.id = a.reckoning_id where s.customer_id = $id order by a.subscription_id`,
  reckonings: `
    select k.id::text, k.says, k.currency, k.frozen, k.dues, k.priced_on, k.good_until, k.made_by
    from reckonings k where k.customer_id = $id order by k.id`,
  alterations: `
    select a.* from alterations a join subscriptions s on s.id = a.subscription_id where s.customer_id = $id order by a.id`,
  invoices: `
    select i.prefix || i.number as number, i.kind, i.subscription_id::text, i.period_from, i.period_to, i.issued_on, i.due_on,
      i.currency, i.lines, i.net::text, i.tax::text, i.total::text, i.collected::text, i.state, i.fields, x.parties
    from invoices i left join invoice_parties x on x.id = i.parties_id where i.customer_id = $id order by i.id`,
  attempts: `
    select a.id::text, i.prefix || i.number as invoice, a.payment_method_id::text, a.amount::text, a.reason, a.channel, a.state,
      a.response_code, a.attempted_on, a.settled_at
    from attempts a join invoices i on i.id = a.invoice_id where i.customer_id = $id order by a.id`,
  payments: `
    select p.id::text, i.prefix || i.number as invoice, p.amount::text, p.currency, p.paid_on
    from payments p join invoices i on i.id = p.invoice_id where i.customer_id = $id order by p.id`,
  credit_at_hand: `
    select b.currency, b.credit::text from credit_balances b where b.customer_id = $id order by b.currency`,
  credit: `
    select m.currency, m.amount::text, m.moved_on, m.why, i.prefix || i.number as invoice, n.prefix || n.number as credit_note
    from credit_moves m left join invoices i on i.id = m.invoice_id left join credit_notes n on n.id = m.credit_note_id
    where m.customer_id = $id order by m.id`,
  credit_notes: `
    select n.prefix || n.number as number, n.kind, n.issued_on, i.prefix || i.number as invoice, n.subscription_id::text, n.currency,
      n.lines, n.net::text, n.tax::text, n.total::text, n.reason, x.parties
    from credit_notes n left join invoices i on i.id = n.invoice_id left join invoice_parties x on x.id = n.parties_id
    where n.customer_id = $id order by n.id`,
  taken_by_hand: `
    select t.means, t.currency, t.amount::text, t.over::text, t.received_on, t.reference, t.note, t.taken_by from takings t
    where t.customer_id = $id order by t.id`,
  refunds: `
    select f.means, f.currency, f.amount::text, f.reason, f.state, f.says, f.asked_on, f.settled_on, f.asked_by from refunds f
    where f.customer_id = $id order by f.id`,
  cases: `
    select k.id::text, k.subscription_id::text, k.state, k.decline_class, k.opened_on, k.closed_on, k.closed_how, k.aside_until
    from recovery_cases k join subscriptions s on s.id = k.subscription_id where s.customer_id = $id order by k.id`,
  letters: `
    select l.id::text, l.event, l.reason, l.to_address, l.subject, l.fields, l.written_on, l.state, l.sent_at
    from letters l where l.customer_id = $id order by l.id`,
  messages: `
    select m.direction, m.says, m.written_on, m.written_by from customer_messages m where m.customer_id = $id order by m.id`,
  needs: `
    select n.kind, n.says, n.arose_on, n.settled_on from needs n where n.customer_id = $id order by n.id`,
  discounts: `
    select d.name, u.used_on, u.subscription_id::text from discount_uses u join discounts d on d.id = u.discount_id
    where u.customer_id = $id order by u.used_on`,
  drafts: `
    select d.who, d.what, d.value, d.saved_by, d.saved_on from enrolment_drafts d where d.customer_id = $id order by d.id`,
  collecting_stopped: `
    select p.from_on, p.until_on, p.why, p.made_by, p.ended_on from suspensions p where p.customer_id = $id order by p.id`,
  pages_opened: `
    select v.visited_on, v.visited_at from link_visits v join customer_links l on l.id = v.link_id
    where l.customer_id = $id order by v.visited_on`,
  links: `
    select l.subscription_id::text, l.expires_on, l.ended_why from customer_links l where l.customer_id = $id order by l.id`,
};

/** All rows of all parts. */
export async function everythingRows({ db }: Almanac, id: string): Promise<Record<string, object[]>> {
  const rows: Record<string, object[]> = {};
  for (const [part, statement] of Object.entries(PARTS)) rows[part] = await db.rows(statement, { id });
  return rows;
}
