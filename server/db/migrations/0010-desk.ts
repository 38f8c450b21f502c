import type { Migration } from '../migration.ts';

/**
 * Alterations are kept with what stood before them, so that what has not begun can be listed and taken back; what a
 * customer and staff write to each other is kept as one thread.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table alterations (
      id bigint generated always as identity primary key,
      subscription_id bigint not null references subscriptions,
      made_on date not null,
      made_by text not null check (made_by in ('customer', 'business')),
      asked jsonb not null,
      alteration jsonb not null,
      says text not null,
      effective_on date not null,
      before jsonb not null,
      terms_after jsonb not null,
      taken_back_on date
    );
    create index alterations_by_subscription on alterations (subscription_id, id);

    create table customer_messages (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      subscription_id bigint references subscriptions,
      direction text not null check (direction in ('in', 'out')),
      says text not null check (length(says) between 1 and 4000),
      written_on date not null,
      written_at timestamptz not null default now(),
      -- Who of the staff wrote it; empty where the customer did.
      written_by text not null default '',
      check ((direction = 'in') = (written_by = ''))
    );
    create index customer_messages_by_customer on customer_messages (customer_id, id);
    alter table staff_letters add reply_to text not null default '';
  `);
};
