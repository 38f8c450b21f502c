import type { Migration } from '../migration.ts';

/**
 * A reckoning is what an enrolment comes to: priced once, frozen, good for a while. What was agreed to is kept beside each
 * subscription: through whom, when, from where, by which version of the terms of service, and by which reckoning.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table reckonings (
      id bigint generated always as identity primary key,
      customer_id bigint references customers,
      rate_id bigint not null references rates,
      rate_version int not null,
      currency char(3) not null,
      frozen jsonb not null,
      dues jsonb not null,
      says text not null,
      priced_on date not null,
      good_until date not null,
      made_at timestamptz not null default now(),
      made_by text not null
    );
    create index reckonings_of_customer on reckonings (customer_id) where customer_id is not null;
    create index reckonings_by_rate on reckonings (rate_id);

    create table agreements (
      subscription_id bigint primary key references subscriptions,
      channel text not null check (channel in ('staff', 'program', 'customer', 'import')),
      agreed_on date not null,
      agreed_at timestamptz not null default now(),
      agreed_by text not null,
      address text not null default '',
      agent text not null default '',
      policy_id bigint references policies,
      reckoning_id bigint unique references reckonings,
      no_tax_because text not null default ''
    );
    create index agreements_by_policy on agreements (policy_id) where policy_id is not null;
  `);
};
