import type { Migration } from '../migration.ts';

/** Subscriptions that begin on one day may be very many: they too are gone along in the order of their numbers. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    drop index subscriptions_by_start;
    create index subscriptions_by_start on subscriptions (starts_on, id);
  `);
};
