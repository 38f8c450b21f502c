import type { Migration } from '../migration.ts';

/**
 * What corrects invoices, and money that comes and goes by hand. Credit has a home of its own beside the customer, which all of
 * their subscriptions use: what stood in the places of subscriptions, and was left by those that are over, moves there. A
 * settlement below zero is a credit note from now on; those that were invoices stay as they were issued.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table business add next_credit_note_number bigint not null default 1 check (next_credit_note_number > 0),
      add credit_note_prefix text not null default 'CN-' check (length(credit_note_prefix) <= 20);

    create table credit_notes (
      id bigint generated always as identity primary key,
      number bigint not null unique,
      prefix text not null,
      customer_id bigint not null references customers,
      subscription_id bigint not null references subscriptions,
      -- The invoice that it corrects; null: it settles a change.
      invoice_id bigint references invoices,
      kind text not null check (kind in ('settlement', 'correction', 'withdrawal')),
      -- Of a settlement: the payment of the terms that it is.
      settles text check (settles in ('trial', 'stub', 'period', 'change', 'once')),
      period_from date not null,
      period_to date not null,
      issued_on date not null,
      currency char(3) not null,
      lines jsonb not null,
      taxes jsonb not null,
      net bigint not null,
      tax bigint not null,
      total bigint not null check (total > 0),
      -- What of it the invoice lacked, and what is the customer's credit.
      set_off bigint not null check (set_off >= 0),
      to_credit bigint not null check (to_credit >= 0),
      reason text not null default '',
      parties_id bigint not null references invoice_parties,
      fields jsonb not null default '[]',
      account text not null default '',
      law_tax jsonb,
      issued_by text not null default '',
      check (net + tax = total),
      check (set_off + to_credit = total),
      check ((kind = 'settlement') = (invoice_id is null)),
      check ((kind = 'settlement') = (settles is not null))
    );
    create unique index one_note_per_boundary on credit_notes (subscription_id, settles, period_from) where kind = 'settlement';
    create index credit_notes_by_customer on credit_notes (customer_id);
    create index credit_notes_by_issue on credit_notes (issued_on, id);
    create index credit_notes_by_total on credit_notes (total, id);
    create index credit_notes_by_kind on credit_notes (kind, id);
    create index credit_notes_by_subscription on credit_notes (subscription_id);
    create index credit_notes_by_invoice on credit_notes (invoice_id) where invoice_id is not null;

    -- Money that staff took: one act, for one invoice or several.
    create table takings (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      means text not null check (means in ('transfer', 'cash', 'cheque', 'other')),
      currency char(3) not null,
      amount bigint not null check (amount > 0),
      -- What of it no invoice lacked.
      over bigint not null default 0 check (over >= 0 and over <= amount),
      received_on date not null,
      reference text not null default '',
      note text not null default '',
      taken_by text not null default '',
      taken_at timestamptz not null default now()
    );
    create index takings_by_customer on takings (customer_id);

    -- Credit that is paid out: to the method of a payment, or by hand.
    create table refunds (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      attempt_id bigint references attempts,
      credit_note_id bigint references credit_notes,
      means text not null check (means in ('gateway', 'transfer', 'cash', 'cheque', 'other')),
      currency char(3) not null,
      amount bigint not null check (amount > 0),
      reason text not null,
      state text not null check (state in ('under way', 'done', 'failed')),
      idempotency_key text not null unique,
      request jsonb,
      gateway_refund text,
      says text not null default '',
      asked_on date not null,
      asked_by text not null default '',
      sent_at timestamptz,
      expected_on date,
      settled_on date,
      check (means <> 'gateway' or (attempt_id is not null and request is not null)),
      check ((state = 'under way') = (settled_on is null))
    );
    create index refunds_by_customer on refunds (customer_id);
    create index refunds_by_attempt on refunds (attempt_id) where attempt_id is not null;
    create index refunds_by_day on refunds (settled_on) where settled_on is not null;
    create index refunds_under_way on refunds (id) where state = 'under way';

    create table credit_balances (
      customer_id bigint not null references customers,
      currency char(3) not null,
      credit bigint not null check (credit >= 0),
      primary key (customer_id, currency)
    );
    -- What credit came from and went to: the statement of the balance. Nothing of it is changed.
    create table credit_moves (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      currency char(3) not null,
      amount bigint not null check (amount <> 0),
      moved_on date not null,
      why text not null check (why in ('settlement', 'credit note', 'over-payment', 'used', 'paid out', 'pay-out failed')),
      invoice_id bigint references invoices,
      credit_note_id bigint references credit_notes,
      taking_id bigint references takings,
      refund_id bigint references refunds,
      check ((amount < 0) = (why in ('used', 'paid out')))
    );
    create index credit_moves_by_customer on credit_moves (customer_id, currency, id);
    create index credit_moves_by_invoice on credit_moves (invoice_id) where invoice_id is not null;
  `);
  await moveCredit(sql);
  await sql(`
    drop view open_dues;
    create index dues_by_day on dues (due_on);
    alter table invoices drop constraint invoices_check1;
    alter table invoices
      add credited bigint not null default 0 check (credited >= 0),
      add owed bigint generated always as (greatest(total, 0) - credit_used - credited - collected) stored check (owed >= 0);
    -- What was paid before an invoice was put in parts is a due of its own, so that the dues of each sum to its total.
    alter table dues drop constraint dues_place_check, add check (place >= 0);
    insert into dues (invoice_id, place, due_on, amount)
      select i.id, 0, i.due_on, greatest(i.total, 0) - sum(d.amount) from invoices i join dues d on d.invoice_id = i.id
      group by i.id having sum(d.amount) < greatest(i.total, 0);
    -- What is not settled yet of each due: whatever settles an invoice settles the earliest first.
    create view open_dues as
      select invoice_id, place, due_on, of_several, least(amount, until - settled)::bigint as owed
      from (
        select d.invoice_id, d.place, d.due_on, true as of_several, d.amount, greatest(i.total, 0) - i.owed as settled,
          sum(d.amount) over (partition by d.invoice_id order by d.place) as until
        from dues d join invoices i on i.id = d.invoice_id where i.state in ('issued', 'part-paid')
        union all
        select i.id, 1, i.due_on, false, i.owed, 0, i.owed
        from invoices i
        where i.state in ('issued', 'part-paid') and not exists (select 1 from dues d where d.invoice_id = i.id)
      ) dated
      where until > settled;

    alter table attempts alter payment_method_id drop not null, alter gateway_account_id drop not null,
      add means text not null default 'gateway' check (means in ('gateway', 'transfer', 'cash', 'cheque', 'other')),
      add taking_id bigint references takings,
      add check ((means = 'gateway') = (payment_method_id is not null and gateway_account_id is not null)),
      add check ((means = 'gateway') = (taking_id is null)),
      drop constraint attempts_reason_check,
      add constraint attempts_reason_check check (reason in ('renewal', 'retry', 'new method', 'by the customer', 'by staff'));
    alter table attempts add customer_id bigint references customers;
    update attempts a set customer_id = i.customer_id from invoices i where i.id = a.invoice_id;
    alter table attempts alter customer_id set not null;
    create index attempts_by_customer on attempts (customer_id, id);
    create index attempts_by_amount on attempts (amount, id);
    create index attempts_by_state on attempts (state, attempted_on);
    create index attempts_by_hand on attempts (means, attempted_on) where means <> 'gateway';
    create index invoices_by_issue on invoices (issued_on, id);
    create index invoices_by_due on invoices (due_on, id);
    create index invoices_by_owed on invoices (owed, id);
    create index invoices_closed on invoices (state, id) where state in ('withdrawn', 'written off');
    -- Which payments people get receipts of, and why of none.
    alter table customers add receipts text not null default 'always' check (receipts in ('always', 'never', 'once')),
      add receipts_why text not null default '';
    alter table contacts add receipts text not null default 'always' check (receipts in ('always', 'never', 'once')),
      add receipts_why text not null default '';
    -- The document that goes with a letter.
    alter table letters add invoice_id bigint references invoices, add credit_note_id bigint references credit_notes;
    create index letters_by_invoice on letters (invoice_id) where invoice_id is not null;
    create index attempts_by_taking on attempts (taking_id) where taking_id is not null;

    alter table accounts drop constraint accounts_kind_check,
      add constraint accounts_kind_check
        check (kind in ('receivable', 'clearing', 'bank', 'cash', 'sales', 'tax', 'credit', 'written off'));
    insert into accounts (kind, code, name) values ('bank', '', 'Bank'), ('cash', '', 'Cash');

    drop view journal_lines;
    drop index journal_once;
    alter table journal alter invoice_id drop not null,
      add credit_note_id bigint references credit_notes,
      add refund_id bigint references refunds,
      add taking_id bigint references takings,
      drop constraint journal_event_check,
      drop constraint journal_check1,
      add constraint journal_event_check check (event in ('invoice issued', 'collected', 'written off', 'write-off taken back',
        'credit note', 'credit used', 'over-paid', 'paid out', 'pay-out failed')),
      add check ((event = 'collected') = (payment_id is not null)),
      add check ((event = 'credit note') = (credit_note_id is not null)),
      add check ((event in ('paid out', 'pay-out failed')) = (refund_id is not null)),
      add check ((event = 'over-paid') = (taking_id is not null)),
      add check (event in ('credit note', 'over-paid', 'paid out', 'pay-out failed') or invoice_id is not null);
    create unique index journal_once on journal (invoice_id) where event = 'invoice issued';
    create unique index journal_note_once on journal (credit_note_id) where credit_note_id is not null;
    create unique index journal_refund_once on journal (refund_id, event) where refund_id is not null;
    create unique index journal_taking_once on journal (taking_id) where taking_id is not null;
    create index journal_by_invoice on journal (invoice_id);
    create view journal_lines as
      select j.id as entry_id, j.posted_on, j.event, j.currency, j.invoice_id, j.payment_id, j.credit_note_id, j.refund_id,
        j.taking_id, l.account_id, l.amount
      from journal j cross join lateral unnest(j.accounts, j.amounts) as l (account_id, amount);
  `);
};

/** What invoices gave and used of credit, as moves of their customers; what is left of it is their balance. */
async function moveCredit(sql: Parameters<Migration['up']>[0]): Promise<void> {
  await sql(`
    insert into credit_moves (customer_id, currency, amount, moved_on, why, invoice_id)
      select customer_id, currency, amount, issued_on, why, id from (
        select customer_id, currency, -total as amount, issued_on, 'settlement' as why, id from invoices
          where total < 0 and state <> 'withdrawn'
        union all
        select customer_id, currency, -credit_used, issued_on, 'used', id from invoices where credit_used > 0 and state <> 'withdrawn'
      ) moved order by id;
    insert into credit_balances (customer_id, currency, credit)
      select customer_id, currency, sum(amount) from credit_moves group by 1, 2;
    update subscriptions set walk = jsonb_set(walk, '{credit}', '"0"'), foresee_on = (select business_date from business)
      where walk ->> 'credit' <> '0';
    drop table customer_credits;
  `);
}
