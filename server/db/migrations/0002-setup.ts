import type { Migration } from '../migration.ts';

/** What Setup needs: settings by section, people, gateway accounts, policies, taxes, calendars, audit, programs. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table settings (
      section text primary key,
      value jsonb not null,
      version int not null default 1,
      changed_at timestamptz not null default now(),
      changed_by text not null default ''
    );

    create table uploads (
      id bigint generated always as identity primary key,
      kind text not null check (kind in ('logo', 'icon')),
      media_type text not null check (media_type in ('image/png', 'image/webp', 'image/svg+xml')),
      name text not null,
      bytes bytea not null,
      png bytea,
      address text not null unique,
      added_at timestamptz not null default now()
    );

    create table invoice_series (
      first_number bigint primary key,
      prefix text not null check (length(prefix) <= 20),
      began_on date not null
    );
    insert into invoice_series (first_number, prefix, began_on)
      select coalesce((select min(number) from invoices), next_invoice_number), '', business_date from business;

    alter table invoices
      add prefix text not null default '',
      add seller jsonb not null default '{}',
      add fields jsonb not null default '[]',
      add law_tax jsonb;
  `);
  await sql(`
    create table people (
      id bigint generated always as identity primary key,
      name text not null check (length(name) between 1 and 120),
      email text not null check (length(email) <= 254),
      role text not null check (role in ('owner', 'biller', 'reader')),
      password_hash text,
      second_factor text,
      second_factor_on boolean not null default false,
      last_factor_step bigint,
      notices jsonb not null default '{}',
      version int not null default 1,
      created_at timestamptz not null default now(),
      left_at timestamptz
    );
    create unique index people_by_email on people (lower(email)) where left_at is null;

    create table recovery_codes (
      person_id bigint not null references people,
      code_hash bytea not null,
      used_at timestamptz,
      primary key (person_id, code_hash)
    );

    create table invitations (
      id bigint generated always as identity primary key,
      token_hash bytea not null unique,
      name text not null,
      email text not null,
      role text not null check (role in ('owner', 'biller', 'reader')),
      invited_by text not null,
      invited_at timestamptz not null default now(),
      expires_at timestamptz not null,
      accepted_at timestamptz,
      withdrawn_at timestamptz
    );

    drop table sessions;
    create table sessions (
      id bigint generated always as identity primary key,
      token_hash bytea not null unique,
      person_id bigint not null references people,
      address text not null default '',
      agent text not null default '',
      created_at timestamptz not null default now(),
      seen_at timestamptz not null default now(),
      expires_at timestamptz not null
    );
    create index sessions_by_person on sessions (person_id);

    create table sign_in_tries (
      id bigint generated always as identity primary key,
      account_hash bytea not null,
      device text not null,
      at timestamptz not null default now()
    );
    create index sign_in_tries_by_account on sign_in_tries (account_hash, device, at);

    create table staff_letters (
      id bigint generated always as identity primary key,
      once_key text not null unique,
      person_id bigint references people,
      to_address text not null,
      kind text not null,
      delivery text not null check (delivery in ('at once', 'daily', 'digest')),
      subject text not null,
      html text not null,
      plain text not null,
      written_on date,
      state text not null default 'queued' check (state in ('gathering', 'gathered', 'queued', 'sent', 'undeliverable')),
      fate text not null default '',
      made_at timestamptz not null default now(),
      sent_at timestamptz
    );
    create index staff_letters_gathering on staff_letters (person_id) where state = 'gathering';

    create table audit_entries (
      id bigint generated always as identity primary key,
      at timestamptz not null default now(),
      person_id bigint references people,
      who text not null,
      via text not null check (via in ('interface', 'program', 'customer', 'terminal', 'stranger')),
      address text not null default '',
      agent text not null default '',
      did text not null,
      subject text not null default '',
      before jsonb,
      after jsonb
    );
    create index audit_entries_by_time on audit_entries (at desc, id desc);
    create function refuse_change() returns trigger language plpgsql as $body$
      begin
        raise exception '% is append-only: what was written stays', tg_table_name;
      end $body$;
    create trigger audit_entries_stay before update or delete or truncate on audit_entries
      for each statement execute function refuse_change();
  `);
  await sql(`
    create table policies (
      id bigint generated always as identity primary key,
      kind text not null check (kind in ('terms of service', 'cancellation', 'refund')),
      version int not null,
      text text not null check (length(text) between 1 and 200000),
      source text,
      effective_on date not null,
      written_by text not null,
      written_at timestamptz not null default now(),
      unique (kind, version)
    );
    create trigger policies_stay before update or delete or truncate on policies
      for each statement execute function refuse_change();
    create table policy_checks (
      policy_id bigint primary key references policies,
      checked_at timestamptz not null default now(),
      answers boolean not null,
      same boolean not null,
      says text not null default ''
    );
    alter table mandates add policy_id bigint references policies;

    create table gateway_accounts (
      id bigint generated always as identity primary key,
      address text not null,
      account text not null,
      name text not null,
      kind text not null check (kind in ('card gateway', 'bank debit gateway')),
      public_key text not null,
      secret_key text not null,
      webhook_secret text,
      earlier_webhook_secret text,
      earlier_until timestamptz,
      connected_by text not null check (connected_by in ('hand-over', 'pasted key', 'environment')),
      connected_on date not null,
      disconnected_on date,
      facts jsonb not null,
      asked_at timestamptz not null default now(),
      well boolean not null default true,
      health text not null default '',
      well_since timestamptz not null default now(),
      version int not null default 1,
      unique (address, account)
    );
    create table gateway_handovers (
      state_hash bytea primary key,
      person_id bigint not null references people,
      verifier text not null,
      expires_at timestamptz not null
    );
    insert into gateway_accounts (address, account, name, kind, public_key, secret_key, connected_by, connected_on, facts, well, health)
      select '', 'before', 'The gateway of before', 'card gateway', '', '', 'environment', business_date, '{}', false,
             'Paste its key again.'
      from business where exists (select 1 from payment_methods);
    alter table payment_methods add gateway_account_id bigint references gateway_accounts;
    update payment_methods set gateway_account_id = (select min(id) from gateway_accounts);
    alter table payment_methods alter gateway_account_id set not null;

    create table taxes (
      id bigint generated always as identity primary key,
      name text not null check (length(name) between 1 and 80),
      version int not null default 1,
      retired_on date
    );
    create unique index taxes_by_name on taxes (lower(name)) where retired_on is null;
    create table tax_rates (
      id bigint generated always as identity primary key,
      tax_id bigint not null references taxes,
      percent numeric(7, 4) not null check (percent between 0 and 100),
      mode text not null check (mode in ('exclusive', 'inclusive')),
      country char(2),
      region text not null default '',
      valid_from date not null,
      valid_to date,
      check (valid_to is null or valid_to > valid_from),
      check (region = '' or country is not null)
    );

    create table holidays (
      country text not null,
      date date not null,
      name text not null,
      primary key (country, date)
    );

    alter table customers
      add country char(2),
      add region text not null default '',
      add phone text not null default '',
      add organisation text not null default '',
      add address text not null default '',
      add tax_number text not null default '',
      add tax_exempt text not null default '',
      add version int not null default 1;
    alter table rates add tax_choice jsonb not null default '{"kind":"default"}';
    alter table subscriptions
      add tax_id bigint references taxes,
      add works_by text,
      add shift text check (shift in ('next', 'previous')),
      add invoice_fields jsonb not null default '[]';

    create table api_keys (
      id bigint generated always as identity primary key,
      name text not null check (length(name) between 1 and 80),
      key_hash bytea not null unique,
      starts_with text not null,
      scopes text[] not null,
      made_by text not null,
      made_at timestamptz not null default now(),
      expires_on date,
      used_at timestamptz,
      revoked_at timestamptz
    );
    create table idempotency_keys (
      asker text not null,
      key text not null,
      fingerprint bytea not null,
      status int,
      body jsonb,
      begun_at timestamptz not null default now(),
      primary key (asker, key)
    );
  `);
};
