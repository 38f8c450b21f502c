import type { Migration } from '../migration.ts';

/** How somebody looks at a list: which columns it opens with (no name), and views that they have saved by a name. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table list_views (
      id bigint generated always as identity primary key,
      person_id bigint not null references people,
      list text not null,
      name text not null,
      asked jsonb not null,
      columns jsonb not null,
      unique (person_id, list, name)
    );
  `);
};
