import type { Migration } from '../migration.ts';

/**
 * People beside a customer, each with the letters that they want, and what staff note of a customer. A letter that went to a
 * contact too is a letter of its own, with a fate of its own.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table contacts (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      name text not null,
      email text not null,
      phone text not null default '',
      role text not null default '',
      letters text[] not null default '{}' check (letters <@ array['payments', 'reminders', 'subscription']),
      added_on date not null
    );
    create unique index contacts_of_customer on contacts (customer_id, lower(email));

    create table notes (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      subscription_id bigint references subscriptions,
      says text not null check (length(says) between 1 and 4000),
      written_on date not null,
      written_at timestamptz not null default now(),
      written_by text not null
    );
    create index notes_of_customer on notes (customer_id, id);
    create index notes_of_subscription on notes (subscription_id) where subscription_id is not null;

    alter table letters add contact_id bigint references contacts on delete set null;
    create index letters_by_contact on letters (contact_id) where contact_id is not null;
    create index needs_by_customer on needs (customer_id) where customer_id is not null;
  `);
};
