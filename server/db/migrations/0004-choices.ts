import type { Migration } from '../migration.ts';

/** What customers choose of a plan, what they may do alone, rate cards, and how a rate is collected. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table uploads drop constraint uploads_kind_check, drop constraint uploads_media_type_check;
    alter table uploads
      add check (kind in ('logo', 'icon', 'picture', 'document')),
      add check (media_type in ('image/png', 'image/webp', 'image/svg+xml', 'application/pdf'));

    alter table plans
      add picture bigint references uploads,
      add documents jsonb not null default '[]',
      add asks jsonb not null default '[]',
      add extras jsonb not null default '[]',
      add may_do jsonb not null default '{}';
    -- Descriptions are formatted text from now on: what was plain becomes one paragraph.
    update plans set description = '<p>' || replace(replace(replace(description, '&', '&amp;'), '<', '&lt;'), '>', '&gt;') || '</p>'
      where description <> '';

    create table variants (
      id bigint generated always as identity primary key,
      plan_id bigint not null references plans,
      key text not null,
      name text not null check (length(name) between 1 and 80),
      says text not null default '',
      -- Other prices by the id of a rate: for each line a price, or null for the rate's own.
      prices jsonb not null default '{}',
      version int not null default 1,
      archived_on date,
      unique (plan_id, key)
    );

    alter table rates add options jsonb not null default '{}';
    alter table rate_versions add options jsonb not null default '{}';

    create table customer_groups (
      id bigint generated always as identity primary key,
      name text not null check (length(name) between 1 and 80)
    );
    create unique index customer_groups_by_name on customer_groups (lower(name));
    alter table customers add group_id bigint references customer_groups;

    create table rate_cards (
      id bigint generated always as identity primary key,
      key text not null unique,
      name text not null check (length(name) between 1 and 80),
      given_by text not null check (given_by in ('group', 'code', 'hand')),
      group_id bigint references customer_groups,
      code text check (code ~ '^[A-Z0-9-]{3,40}$'),
      valid_from date,
      valid_to date,
      version int not null default 1,
      archived_on date,
      check ((given_by = 'group') = (group_id is not null)),
      check ((given_by = 'code') = (code is not null)),
      check (valid_to is null or valid_from is null or valid_to > valid_from)
    );
    create unique index rate_cards_by_name on rate_cards (lower(name)) where archived_on is null;
    create unique index rate_cards_by_code on rate_cards (code) where archived_on is null;
    create table rate_card_prices (
      card_id bigint not null references rate_cards,
      rate_id bigint not null references rates,
      -- Null: for every variant that has no price of its own on the card.
      variant_id bigint references variants,
      prices jsonb not null
    );
    create unique index rate_card_prices_once on rate_card_prices (card_id, rate_id, coalesce(variant_id, 0));
  `);
  await sql(`
    alter table subscriptions
      add variant_id bigint references variants,
      add rate_card_id bigint references rate_cards,
      add extras jsonb not null default '[]',
      add answers jsonb not null default '[]',
      add collects text not null default 'automatic' check (collects in ('automatic', 'by hand')),
      add cancelled_by text check (cancelled_by in ('customer', 'business')),
      add without_method text check (without_method in ('end', 'pause', 'invoice'));
    create index subscriptions_by_card on subscriptions (rate_card_id) where rate_card_id is not null;
    alter table invoices add account text not null default '';
  `);
  await sql(`
    alter table subscriptions
      add invoicing text not null default 'each' check (invoicing in ('each', 'whole'));
    -- The dated parts of an invoice for the whole of a fixed term; an invoice without rows here has one due, its own.
    create table dues (
      invoice_id bigint not null references invoices,
      place int not null check (place >= 1),
      due_on date not null,
      amount bigint not null check (amount >= 0),
      primary key (invoice_id, place)
    );
    -- What is not paid yet of each due: payments pay the earliest first.
    create view open_dues as
      select invoice_id, place, due_on, of_several, least(amount, until - collected)::bigint as owed
      from (
        select d.invoice_id, d.place, d.due_on, true as of_several, d.amount, i.collected,
          sum(d.amount) over (partition by d.invoice_id order by d.place) as until
        from dues d join invoices i on i.id = d.invoice_id where i.state in ('open', 'part-paid')
        union all
        select i.id, 1, i.due_on, false, greatest(i.total, 0) - i.credit_used, i.collected,
          greatest(i.total, 0) - i.credit_used
        from invoices i
        where i.state in ('open', 'part-paid') and not exists (select 1 from dues d where d.invoice_id = i.id)
      ) dated
      where until > collected;
  `);
};
