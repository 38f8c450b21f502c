import type { Migration } from '../migration.ts';

/** Where a customer is asked to agree to the terms of service themselves: that they did, when, to which version, and from where. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table agreements
      add asks_terms boolean not null default false,
      add terms_agreed_on date,
      add terms_policy_id bigint references policies,
      add terms_address text not null default '',
      add terms_agent text not null default '',
      add check ((terms_agreed_on is null) = (terms_policy_id is null));
  `);
};
