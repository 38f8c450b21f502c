import type { Migration } from '../migration.ts';

/**
 * Sessions remember when their person last proved who they are; customers' links end with a reason; limits on what
 * strangers may ask are kept where every server sees them.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table sessions add confirmed_at timestamptz not null default now();
    alter table customer_links
      add ended_at timestamptz,
      add ended_why text check ((ended_why is null) = (ended_at is null));
    -- In the form of the limiter that is used: an instant is counted in milliseconds.
    create table rate_limits (
      key varchar(255) primary key,
      points integer not null default 0,
      expire bigint
    );
    create index rate_limits_by_end on rate_limits (expire);
  `);
};
