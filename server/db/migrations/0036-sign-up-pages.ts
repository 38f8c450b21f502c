import type { Migration } from '../migration.ts';

/**
 * Pages on which customers join by themselves, who came to them and how far, and the tries with cards there that were
 * declined. What was agreed to there names its page and every policy.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table sign_up_pages (
      id bigint generated always as identity primary key,
      key text not null unique check (key ~ '^[a-z0-9][a-z0-9-]{0,59}$'),
      version int not null default 1 check (version > 0),
      changed_by text not null default '',
      value jsonb not null,
      is_on boolean not null default false,
      -- How many may join; null: any number.
      places int check (places > 0),
      made_on date not null,
      archived_on date,
      check (archived_on is null or not is_on)
    );

    create table sign_up_visits (
      id uuid primary key,
      page_id bigint not null references sign_up_pages,
      seen_on date not null,
      step smallint not null default 0 check (step between 0 and 4),
      subscription_id bigint unique references subscriptions,
      check ((step = 4) = (subscription_id is not null))
    );
    create index sign_up_visits_of_page on sign_up_visits (page_id, seen_on);

    create table card_tries (
      id bigint generated always as identity primary key,
      page_id bigint not null references sign_up_pages,
      address text not null,
      at timestamptz not null default clock_timestamp()
    );
    create index card_tries_of_page on card_tries (page_id, at);

    alter table agreements
      add page_id bigint references sign_up_pages,
      add page_version int,
      add check ((page_id is null) = (page_version is null));
    create index agreements_by_page on agreements (page_id) where page_id is not null;

    create table agreed_policies (
      subscription_id bigint not null references subscriptions,
      policy_id bigint not null references policies,
      primary key (subscription_id, policy_id)
    );
  `);
};
