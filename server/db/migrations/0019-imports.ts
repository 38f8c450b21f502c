import type { Migration } from '../migration.ts';

/** Files of customers that staff bring in: what they hold, how their columns are understood, and how far they are. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table imports (
      id bigint generated always as identity primary key,
      name text not null,
      bytes bytea,
      header jsonb not null,
      sample jsonb not null,
      mapping jsonb,
      state text not null default 'new'
        check (state in ('new', 'checking', 'checked', 'importing', 'done', 'broken')),
      done int not null default 0,
      share double precision not null default 0,
      report jsonb,
      bad jsonb not null default '[]',
      says text not null default '',
      beat_at timestamptz,
      made_at timestamptz not null default now(),
      made_by text not null
    );
  `);
};
