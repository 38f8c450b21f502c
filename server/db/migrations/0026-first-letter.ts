import type { Migration } from '../migration.ts';

/** What staff write into the first letter of a subscription, and whether there is one. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table agreements add first_words text not null default '' check (length(first_words) <= 2000),
      add first_letter boolean not null default true;
  `);
};
