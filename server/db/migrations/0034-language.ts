import type { Migration } from '../migration.ts';

/** The language that a customer reads, by its code of ISO 639-1; empty: that of the business. */
export const up: Migration['up'] = async (sql) => {
  await sql(`alter table customers add language text not null default ''`);
};
