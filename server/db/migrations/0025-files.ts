import type { Migration } from '../migration.ts';

/** Documents that are kept with a customer, or with one of their subscriptions, for staff alone. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table customer_files (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      subscription_id bigint references subscriptions,
      name text not null,
      media_type text not null,
      bytes bytea not null,
      size int not null,
      added_on date not null,
      added_at timestamptz not null default now(),
      added_by text not null
    );
    alter table customer_files alter bytes set storage external;
    create index customer_files_of_customer on customer_files (customer_id, id);
    create index customer_files_of_subscription on customer_files (subscription_id) where subscription_id is not null;
  `);
};
