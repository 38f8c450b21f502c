import type { Migration } from '../migration.ts';

/**
 * Where a subscription is served or shipped to, beside where its customer is billed: it stands on its invoices, and its taxes are
 * those of that place. What the business asks of its customers in fields of its own.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table customers
      add postcode text not null default '',
      add shipping jsonb,
      add fields jsonb not null default '[]';
    alter table subscriptions add served_at jsonb;
  `);
};
