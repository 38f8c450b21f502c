import type { Migration } from '../migration.ts';

/** What is offered: more of a plan, rates in versions, moves of subscribers, discounts with codes. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table plans
      add outer_name text not null default '',
      add kind text not null default 'service'
        check (kind in ('service', 'goods', 'course', 'membership', 'donation')),
      add statement_text text check (length(statement_text) between 1 and 22),
      add first_rate bigint,
      add version int not null default 1;

    alter table rates
      add version int not null default 1,
      add archived_on date;
    create table rate_versions (
      rate_id bigint not null references rates,
      version int not null,
      name text not null,
      terms jsonb not null,
      tax_choice jsonb not null,
      saved_by text not null,
      saved_at timestamptz not null default now(),
      primary key (rate_id, version)
    );
    insert into rate_versions (rate_id, version, name, terms, tax_choice, saved_by)
      select id, 1, name, terms, tax_choice, '' from rates;
    create trigger rate_versions_stay before update or delete or truncate on rate_versions
      for each statement execute function refuse_change();
    alter table subscriptions add rate_version int not null default 1;

    create table rate_moves (
      id bigint generated always as identity primary key,
      rate_id bigint not null references rates,
      to_version int not null,
      letter_days int not null check (letter_days between 0 and 365),
      decided_by text not null,
      decided_on date not null,
      foreign key (rate_id, to_version) references rate_versions (rate_id, version)
    );
    create table subscription_moves (
      move_id bigint not null references rate_moves,
      subscription_id bigint not null references subscriptions,
      effective_on date not null,
      letter_on date not null,
      written_on date,
      primary key (move_id, subscription_id)
    );
    create index subscription_moves_to_tell on subscription_moves (letter_on) where written_on is null;
  `);
  await sql(`
    create table discounts (
      id bigint generated always as identity primary key,
      name text not null check (length(name) between 1 and 80),
      percent text,
      amount text,
      currency char(3),
      payments int check (payments >= 1),
      applies_to text not null check (applies_to in ('recurring', 'once', 'all')),
      plans bigint[] not null default '{}',
      valid_from date,
      valid_to date,
      most_uses int check (most_uses >= 1),
      most_per_customer int check (most_per_customer >= 1),
      stacks boolean not null default false,
      used int not null default 0,
      version int not null default 1,
      archived_on date,
      check ((percent is null) <> (amount is null)),
      check ((amount is null) = (currency is null)),
      check (most_uses is null or used <= most_uses),
      check (valid_to is null or valid_from is null or valid_to > valid_from)
    );
    create unique index discounts_by_name on discounts (lower(name)) where archived_on is null;
    create table discount_codes (
      id bigint generated always as identity primary key,
      discount_id bigint not null references discounts,
      code text not null check (code ~ '^[A-Z0-9-]{3,40}$'),
      most_uses int check (most_uses >= 1),
      used int not null default 0,
      withdrawn_on date,
      check (most_uses is null or used <= most_uses)
    );
    create unique index discount_codes_by_code on discount_codes (code);
    create table discount_uses (
      id bigint generated always as identity primary key,
      discount_id bigint not null references discounts,
      code_id bigint not null references discount_codes,
      customer_id bigint not null references customers,
      subscription_id bigint not null references subscriptions,
      used_on date not null,
      unique (discount_id, subscription_id)
    );
    create index discount_uses_by_customer on discount_uses (discount_id, customer_id);
  `);
};
