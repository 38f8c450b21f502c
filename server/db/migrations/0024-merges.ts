import type { Migration } from '../migration.ts';

/** Letters that somebody got under another record, before two were put together; and customers whose data was erased. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table letters add merged_from bigint;
    alter table customers add erased_on date;
  `);
};
