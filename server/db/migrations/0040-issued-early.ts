import type { Migration } from '../migration.ts';

/**
 * Invoices may be issued so many days before their period begins. Until it begins, such an invoice keeps the place of the walk
 * before it; where something changes meanwhile it is taken back, and its boundary is invoiced anew.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table subscriptions add issue_before smallint not null default 0 check (issue_before between 0 and 90);
    alter table invoices add walk_before jsonb, add taken_back boolean not null default false;
    drop index one_invoice_per_boundary;
    create unique index one_invoice_per_boundary on invoices (subscription_id, kind, period_from)
      where state <> 'withdrawn' and not taken_back;
  `);
};
