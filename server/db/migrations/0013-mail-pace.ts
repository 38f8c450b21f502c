import type { Migration } from '../migration.ts';

/** The moment from which the mail server may be handed more: all workers together keep to what it takes in a second. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table mail_pace (one boolean primary key default true check (one), free_at timestamptz not null default now());
    insert into mail_pace default values;
  `);
};
