import type { Migration } from '../migration.ts';

/** Until when a card can be charged is a day, and cards that cannot be are found without looking at all of them. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table payment_methods add expires_on date generated always as
      ((make_date(expires_year, expires_month, 1) + interval '1 month' - interval '1 day')::date) stored;
    create index payment_methods_by_expiry on payment_methods (expires_on) where state = 'usable';
    create index payment_methods_failing on payment_methods (customer_id) where state in ('barred', 'needs-customer');
    create index payment_methods_by_account on payment_methods (gateway_account_id) where state <> 'replaced';
  `);
};
