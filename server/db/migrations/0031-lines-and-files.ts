import type { Migration } from '../migration.ts';

/**
 * Documents that go with letters, and those that wait for the enrolment they are for. Lines of other plans within a subscription,
 * each with the tax and the account of its own rate. Where something is served stands on the lines of invoices, from
 * `served_at`, and no more among the fields that the business asks for.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table customer_files
      alter customer_id drop not null,
      add goes_with text not null default 'nothing' check (goes_with in ('nothing', 'first letter', 'invoices'));
    alter table letters add files bigint[];
    alter table subscriptions add line_sources jsonb;
    update subscriptions set invoice_fields =
        (select coalesce(jsonb_agg(f), '[]') from jsonb_array_elements(invoice_fields) f where f ->> 'label' <> 'For')
      where served_at is not null;
  `);
};
