import type { Migration } from '../migration.ts';

/**
 * A bank account is a method beside cards: it has no expiry, and whose it is stands beside it. What is collected from one is
 * submitted first and answered days later: until the day on which the answer is expected it is not asked for.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table payment_methods
      add kind text not null default 'card' check (kind in ('card', 'bank account')),
      add holder text not null default '',
      drop column expires_on,
      alter column expires_year drop not null,
      alter column expires_month drop not null,
      add constraint only_cards_expire check ((kind = 'card') = (expires_year is not null and expires_month is not null));
    alter table payment_methods add expires_on date generated always as (
      coalesce((make_date(expires_year, expires_month, 1) + interval '1 month' - interval '1 day')::date, 'infinity'::date)) stored;
    create index payment_methods_by_expiry on payment_methods (expires_on) where state = 'usable';

    alter table attempts add expected_on date;
  `);
};
