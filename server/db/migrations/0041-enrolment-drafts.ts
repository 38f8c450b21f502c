import type { Migration } from '../migration.ts';

/** Enrolments, and invoices of something of its own, that are half filled in, for whoever goes on with them. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table enrolment_drafts (
      id bigint generated always as identity primary key,
      customer_id bigint references customers (id),
      who text not null,
      what text not null,
      value jsonb not null,
      version int not null default 1,
      saved_by text not null,
      saved_on date not null
    );
    create index on enrolment_drafts (customer_id);
  `);
};
