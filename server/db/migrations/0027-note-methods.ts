import type { Migration } from '../migration.ts';

/** Whether a customer has a primary method is told by the rows that were written, and looked for only where those do not say it. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create or replace function note_methods() returns trigger language plpgsql as $do$
    begin
      update customers c set has_method = x.has
      from (select m.customer_id, case
              when tg_op <> 'DELETE' and bool_or(m.state <> 'replaced' and m.role = 'primary') then true
              else exists (
                select from payment_methods p
                where p.customer_id = m.customer_id and p.state <> 'replaced' and p.role = 'primary') end as has
            from changed m group by m.customer_id) x
      where c.id = x.customer_id and c.has_method <> x.has;
      return null;
    end $do$;
  `);
};
