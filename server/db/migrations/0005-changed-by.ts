import type { Migration } from '../migration.ts';

/** Who changed a thing last: it stands in the notice of whoever edits it at the same time. */
export const up: Migration['up'] = async (sql) => {
  for (const table of ['plans', 'variants', 'rate_cards', 'discounts', 'customers', 'taxes'])
    await sql(`alter table ${table} add column if not exists changed_by text not null default ''`);
};
