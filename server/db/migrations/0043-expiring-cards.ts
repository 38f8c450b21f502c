import type { Migration } from '../migration.ts';

/** Which expiry of a card its customer was written to about, and when the gateway renewed it by itself. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table payment_methods add expiry_told date, add expiry_told_on date, add renewed_on date;
  `);
};
