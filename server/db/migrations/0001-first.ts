import type { Migration } from '../migration.ts';

/** The tables of the first slice. Dates are civil business dates; instants are `timestamptz`; money is minor units. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table business (
      only_row boolean primary key default true check (only_row),
      name text not null,
      home_currency char(3) not null,
      time_zone text not null,
      sender_address text not null,
      statement_text text not null check (length(statement_text) between 1 and 22),
      practice boolean not null,
      business_date date not null,
      next_invoice_number bigint not null default 1,
      instance uuid not null default gen_random_uuid()
    );

    create table sessions (
      token_hash bytea primary key,
      role text not null check (role in ('owner', 'biller', 'reader')),
      person text not null,
      created_at timestamptz not null default now(),
      expires_at timestamptz not null
    );

    create table sign_in_links (
      token_hash bytea primary key,
      expires_at timestamptz not null
    );

    create table plans (
      id bigint generated always as identity primary key,
      key text not null unique,
      name text not null,
      description text not null default '',
      archived_on date
    );

    create table rates (
      id bigint generated always as identity primary key,
      plan_id bigint not null references plans,
      key text not null,
      name text not null,
      terms jsonb not null,
      unique (plan_id, key)
    );

    create table customers (
      id bigint generated always as identity primary key,
      reference text not null unique,
      name text not null,
      email text not null,
      created_on date not null
    );

    create table payment_methods (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      gateway_token text not null,
      network text not null,
      last_four char(4) not null,
      expires_year int not null,
      expires_month int not null check (expires_month between 1 and 12),
      state text not null default 'usable' check (state in ('usable', 'needs-customer', 'barred', 'replaced')),
      added_on date not null,
      unique (customer_id, gateway_token)
    );
    create unique index one_current_method on payment_methods (customer_id) where state <> 'replaced';

    create table mandates (
      id bigint generated always as identity primary key,
      payment_method_id bigint not null references payment_methods,
      agreed_text text not null,
      channel text not null check (channel in ('customer', 'staff', 'import')),
      given_on date not null,
      given_at timestamptz not null default now()
    );

    create table subscriptions (
      id bigint generated always as identity primary key,
      reference text not null unique,
      customer_id bigint not null references customers,
      rate_id bigint not null references rates,
      terms jsonb not null,
      walk jsonb,
      state text not null check (state in ('scheduled', 'trial', 'active', 'overdue', 'paused', 'lapsed', 'ended')),
      ended_why text check (ended_why in ('completed', 'cancelled by the customer', 'cancelled by the business', 'given up')),
      starts_on date not null,
      trial_ends_on date,
      ends_on date,
      wake_on date,
      closed_on date,
      held_on date,
      enrolled_on date not null,
      check ((state = 'ended') = (ended_why is not null))
    );
    create index subscriptions_by_wake on subscriptions (wake_on) where wake_on is not null;
    create index subscriptions_by_customer on subscriptions (customer_id);

    create table ladders (
      id bigint generated always as identity primary key,
      name text not null,
      version int not null,
      rungs jsonb not null,
      final_action text not null check (final_action in ('lapse', 'end', 'lapse and write off', 'leave')),
      final_after_days int not null,
      is_default boolean not null default false,
      unique (name, version)
    );
    create unique index one_default_ladder on ladders (is_default) where is_default;

    create table recovery_cases (
      id bigint generated always as identity primary key,
      subscription_id bigint not null references subscriptions,
      ladder_id bigint not null references ladders,
      state text not null check (state in ('open', 'recovered', 'given up')),
      decline_class text not null check (decline_class in ('wait', 'soon', 'ask', 'never')),
      opened_on date not null,
      retry_on date,
      next_rung int not null default 0,
      next_rung_on date,
      closed_on date,
      check ((state = 'open') = (closed_on is null))
    );
    create unique index one_open_case on recovery_cases (subscription_id) where state = 'open';

    create table invoices (
      id bigint generated always as identity primary key,
      number bigint not null unique,
      subscription_id bigint not null references subscriptions,
      customer_id bigint not null references customers,
      case_id bigint references recovery_cases,
      kind text not null check (kind in ('trial', 'stub', 'period', 'change', 'once')),
      period_from date not null,
      period_to date not null,
      issued_on date not null,
      due_on date not null,
      currency char(3) not null,
      lines jsonb not null,
      taxes jsonb not null,
      discount bigint not null,
      net bigint not null,
      tax bigint not null,
      total bigint not null,
      credit_used bigint not null default 0 check (credit_used >= 0),
      collected bigint not null default 0 check (collected >= 0),
      state text not null check (state in ('draft', 'open', 'part-paid', 'paid', 'void', 'written off')),
      check (net + tax = total),
      check (collected <= greatest(total, 0) - credit_used)
    );
    create unique index one_invoice_per_boundary on invoices (subscription_id, kind, period_from) where state <> 'void';
    create index invoices_open on invoices (due_on) where state in ('open', 'part-paid');
    create index invoices_by_case on invoices (case_id) where case_id is not null;
    create index invoices_by_customer on invoices (customer_id);

    create table attempts (
      id bigint generated always as identity primary key,
      invoice_id bigint not null references invoices,
      payment_method_id bigint not null references payment_methods,
      idempotency_key text not null unique,
      amount bigint not null check (amount > 0),
      reason text not null check (reason in ('renewal', 'retry', 'new method', 'by the customer')),
      channel text not null check (channel in ('customer', 'staff', 'import')),
      state text not null check (state in ('pending', 'collected', 'declined')),
      response_code text,
      gateway_charge text,
      attempted_on date not null,
      settled_at timestamptz
    );
    create unique index one_pending_attempt on attempts (invoice_id) where state = 'pending';
    create index attempts_by_invoice on attempts (invoice_id);
    create index attempts_by_day on attempts (attempted_on);

    create table payments (
      id bigint generated always as identity primary key,
      invoice_id bigint not null references invoices,
      attempt_id bigint not null unique references attempts,
      amount bigint not null check (amount > 0),
      currency char(3) not null,
      paid_on date not null
    );
    create index payments_by_day on payments (paid_on);
    create index payments_by_invoice on payments (invoice_id);

    create table rungs_climbed (
      case_id bigint not null references recovery_cases,
      rung int not null,
      climbed_on date not null,
      did text not null,
      primary key (case_id, rung)
    );

    create table customer_links (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      subscription_id bigint not null references subscriptions,
      case_id bigint unique references recovery_cases,
      expires_on date not null
    );

    create table letters (
      id bigint generated always as identity primary key,
      once_key text not null unique,
      customer_id bigint not null references customers,
      subscription_id bigint references subscriptions,
      case_id bigint references recovery_cases,
      link_id bigint references customer_links,
      event text not null,
      reason text not null,
      to_address text not null,
      subject text not null,
      html text not null,
      plain text not null,
      state text not null default 'queued' check (state in ('queued', 'sent', 'undeliverable')),
      fate text not null default '',
      written_on date not null,
      sent_at timestamptz
    );
    create index letters_by_customer on letters (customer_id);
    create index letters_by_day on letters (written_on);

    create table days (
      business_date date primary key,
      started_at timestamptz not null default now(),
      finished_at timestamptz
    );

    create table needs (
      id bigint generated always as identity primary key,
      once_key text not null unique,
      arose_on date not null,
      kind text not null,
      says text not null,
      subscription_id bigint references subscriptions,
      customer_id bigint references customers,
      settled_on date
    );

    create table page_turns (
      id bigint generated always as identity primary key,
      from_date date not null,
      to_date date not null,
      state text not null check (state in ('turning', 'waiting', 'done')),
      says text not null default '',
      asked_at timestamptz not null default now()
    );
    create unique index one_page_turn on page_turns ((true)) where state <> 'done';

    create table webhooks_received (
      webhook_id text primary key,
      received_at timestamptz not null default now()
    );
  `);
};
