import type { Migration } from '../migration.ts';

/** Numbers by which records were known that were put into others: a file that is imported again finds who it is now. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table merged_references (
      reference text primary key,
      customer_id bigint not null references customers
    );
    create index merged_references_of_customer on merged_references (customer_id);
  `);
};
