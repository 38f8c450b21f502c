import type { Migration } from '../migration.ts';

/**
 * A customer may have several methods: a primary, a fallback that is tried after it, and others for one subscription each.
 * Whether a customer "has a method" is whether there is a primary one. An attempt that was declined while another method is
 * still to be tried in its turn goes on with that. Cards can be read on a reader, and mandates withdrawn.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table payment_methods
      add role text not null default 'primary' check (role in ('primary', 'fallback', 'own')),
      add checked_on date, add check_code text;
    drop index one_current_method;
    create unique index one_method_in_a_role on payment_methods (customer_id, role) where state <> 'replaced' and role <> 'own';
    create index payment_methods_in_use on payment_methods (customer_id) where state <> 'replaced';

    alter table subscriptions add own_method_id bigint references payment_methods;
    create index subscriptions_by_own_method on subscriptions (own_method_id) where own_method_id is not null;

    alter table mandates add withdrawn_on date, add withdrawn_by text not null default '',
      drop constraint mandates_channel_check,
      add constraint mandates_channel_check check (channel in ('customer', 'staff', 'reader', 'import'));
    alter table attempts add goes_on boolean not null default false,
      drop constraint attempts_channel_check,
      add constraint attempts_channel_check check (channel in ('customer', 'staff', 'reader', 'import'));
    create index attempts_going_on on attempts (id) where goes_on;

    create or replace function note_methods() returns trigger language plpgsql as $do$
    begin
      update customers c set has_method = x.has
      from (select distinct m.customer_id, exists (
              select from payment_methods p
              where p.customer_id = m.customer_id and p.state <> 'replaced' and p.role = 'primary') as has
            from changed m) x
      where c.id = x.customer_id and c.has_method <> x.has;
      return null;
    end $do$;
  `);
};
