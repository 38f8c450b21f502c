import type { MomentKind } from './contactKinds.ts';

/** Something that happened, as it is stored: what it is made of, and never a sentence. */
export interface MomentRow {
  readonly id: string;
  readonly kind: MomentKind;
  readonly what: string;
  readonly on: string;
  readonly at: Date;
  readonly facts: Readonly<Record<string, string | number | null>>;
}

/**
 * All that happened with the customer `$id`, kind by kind. `text` is what a search looks into; of one day what came later
 * stands later (`at`).
 */
const PARTS: Readonly<Record<string, string>> = {
  payment: `
    select 'attempt:' || a.id as id, 'payment' as kind, a.state as what, a.attempted_on as on, coalesce(a.settled_at, a.sent_at, now()) as at,
      jsonb_build_object('invoice', i.prefix || i.number, 'amount', a.amount::text, 'currency', i.currency,
        'card', m.network || ' ending ' || m.last_four, 'code', a.response_code, 'reason', a.reason,
        'subscription', i.subscription_id::text) as facts,
      concat_ws(' ', i.prefix || i.number, m.last_four, a.state, a.amount) as text
    from attempts a join invoices i on i.id = a.invoice_id left join payment_methods m on m.id = a.payment_method_id
    where i.customer_id = $id and a.state <> 'withdrawn'`,
  invoice: `
    select 'invoice:' || i.id, 'invoice', i.state, i.issued_on, i.issued_on::timestamptz,
      jsonb_build_object('invoice', i.prefix || i.number, 'amount', i.total::text, 'currency', i.currency, 'due', i.due_on,
        'subscription', i.subscription_id::text),
      concat_ws(' ', i.prefix || i.number, i.state, i.total)
    from invoices i where i.customer_id = $id`,
  letter: `
    select 'letter:' || l.id, 'letter', l.event, l.written_on, coalesce(l.sent_at, l.written_on::timestamptz),
      jsonb_build_object('letter', l.id::text, 'subject', l.subject, 'to', l.to_address, 'state', l.state),
      concat_ws(' ', l.subject, l.to_address, l.event)
    from letters l where l.customer_id = $id`,
  message: `
    select 'message:' || m.id, 'message', m.direction, m.written_on, m.written_at,
      jsonb_build_object('says', m.says, 'by', m.written_by, 'customer', m.customer_id::text), m.says
    from customer_messages m where m.customer_id = $id`,
  change: `
    select 'change:' || a.id, 'change', a.made_by, a.made_on, a.made_on::timestamptz,
      jsonb_build_object('says', a.says, 'effective', a.effective_on, 'takenBack', a.taken_back_on, 'plan', p.name,
        'subscription', s.id::text),
      concat_ws(' ', a.says, p.name)
    from alterations a join subscriptions s on s.id = a.subscription_id join rates r on r.id = s.rate_id
      join plans p on p.id = r.plan_id
    where s.customer_id = $id`,
  began: `
    select 'began:' || s.id, 'change', 'enrolled', s.enrolled_on, s.enrolled_on::timestamptz,
      jsonb_build_object('plan', p.name, 'starts', s.starts_on, 'by', g.agreed_by, 'subscription', s.id::text),
      concat_ws(' ', p.name, g.agreed_by)
    from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
      left join agreements g on g.subscription_id = s.id
    where s.customer_id = $id`,
  ended: `
    select 'ended:' || s.id, 'change', s.state, s.closed_on, s.closed_on::timestamptz + interval '23 hours',
      jsonb_build_object('plan', p.name, 'why', s.ended_why, 'subscription', s.id::text), concat_ws(' ', p.name, s.ended_why)
    from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
    where s.customer_id = $id and s.closed_on is not null`,
  given: `
    select 'given:' || d.id, 'method', 'given', d.given_on, d.given_at,
      jsonb_build_object('card', m.network || ' ending ' || m.last_four, 'channel', d.channel), m.network || ' ' || m.last_four
    from mandates d join payment_methods m on m.id = d.payment_method_id where m.customer_id = $id`,
  withdrawn: `
    select 'withdrawn:' || d.id, 'method', 'withdrawn', d.withdrawn_on, d.withdrawn_on::timestamptz,
      jsonb_build_object('card', m.network || ' ending ' || m.last_four, 'by', d.withdrawn_by), m.network || ' ' || m.last_four
    from mandates d join payment_methods m on m.id = d.payment_method_id
    where m.customer_id = $id and d.withdrawn_on is not null`,
  note: `
    select 'note:' || n.id, 'note', 'note', n.written_on, n.written_at, jsonb_build_object('says', n.says, 'by', n.written_by), n.says
    from notes n where n.customer_id = $id`,
  need: `
    select 'need:' || n.id, 'need', n.kind, n.arose_on, n.arose_on::timestamptz,
      jsonb_build_object('says', n.says, 'settled', n.settled_on), n.says
    from needs n where n.customer_id = $id`,
};

/** The line of time of `$id`, of one kind or of all, searched for `$pattern`: for `readPage`. */
export const MOMENTS = `
  select * from (${Object.values(PARTS).join('\n union all ')}) as moments
  where ($kind = '' or kind = $kind) and ($pattern = '' or text ilike $pattern)`;
