import type { Migration } from '../migration.ts';

/**
 * A subscription may begin while its customer is still asked for a way to pay. Whether a customer has a method is kept
 * beside them, so that those without one are found at once; and a mandate keeps from where it was given.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table subscriptions drop constraint subscriptions_without_method_check,
      add constraint subscriptions_without_method_check check (without_method in ('end', 'pause', 'invoice', 'wait'));
    create index subscriptions_waiting on subscriptions (customer_id) where without_method = 'wait';

    alter table mandates add address text not null default '', add agent text not null default '';

    -- Most have one: only the others are written anew.
    alter table customers add has_method boolean not null default true, add method_asked_on date;
    update customers c set has_method = false
      where not exists (select from payment_methods m where m.customer_id = c.id and m.state <> 'replaced');
    alter table customers alter has_method set default false;
    create index customers_by_address on customers (lower(email));
    create index customers_without_method on customers (id) where not has_method;
    create index customers_asked on customers (method_asked_on) where method_asked_on is not null;

    create function note_methods() returns trigger language plpgsql as $do$
    begin
      update customers c set has_method = x.has
      from (select distinct m.customer_id, exists (
              select from payment_methods p where p.customer_id = m.customer_id and p.state <> 'replaced') as has
            from changed m) x
      where c.id = x.customer_id and c.has_method <> x.has;
      return null;
    end $do$;
    create trigger payment_methods_added after insert on payment_methods
      referencing new table as changed for each statement execute function note_methods();
    create trigger payment_methods_changed after update on payment_methods
      referencing new table as changed for each statement execute function note_methods();
    create trigger payment_methods_removed after delete on payment_methods
      referencing old table as changed for each statement execute function note_methods();
  `);
};
