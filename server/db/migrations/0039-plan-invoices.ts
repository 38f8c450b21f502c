import type { Migration } from '../migration.ts';

/** What a plan has printed on its invoices in place of what Setup says for all. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table plans add on_invoices jsonb not null default '{"note": "", "footer": "", "columns": null}';
  `);
};
