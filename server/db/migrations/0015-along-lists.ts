import type { Migration } from '../migration.ts';

/**
 * Subscriptions of a rate are gone along in the order of their numbers, and summed up by state without reading them; the
 * letterbook is gone along from its newest letter without reading any.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    drop index subscriptions_by_rate;
    create index subscriptions_by_rate on subscriptions (rate_id, id) include (state, currency, monthly, rate_version);
    drop index letters_by_day;
    create index letters_by_day on letters (written_on, id);
  `);
};
