import type { Migration } from '../migration.ts';

/** Whoever works on a request says that it is alive, and what was done is noted with it, so that a crash leaves no riddle. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table idempotency_keys
      add alive_at timestamptz not null default now(),
      add done_at timestamptz;
    create index idempotency_keys_by_time on idempotency_keys (begun_at);
  `);
};
