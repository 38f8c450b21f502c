import type { Migration } from '../migration.ts';

/**
 * What is asked often is stored when it changes: of each subscription what it brings a month, its next payment and its
 * planned charges, and of each day the sums of what was collected, declined and is planned.
 */
export const up: Migration['up'] = async (sql) => {
  // Nothing is foreseen yet: the first pass of a worker does it, in batches.
  await sql(`
    alter table subscriptions
      add currency char(3) generated always as (terms ->> 'currency') stored,
      add next_on date, add next_amount bigint, add monthly bigint,
      add foresee_on date default '1970-01-01';
    create index subscriptions_to_foresee on subscriptions (foresee_on) where foresee_on is not null;
    drop index subscriptions_by_rate;
    create index subscriptions_by_rate on subscriptions (rate_id, state, currency) include (monthly, rate_version);

    create table planned_charges (
      subscription_id bigint not null,
      charge_on date not null,
      payments smallint not null check (payments > 0),
      amount bigint not null check (amount > 0),
      currency char(3) not null,
      primary key (subscription_id, charge_on)
    );
    create index planned_charges_by_day on planned_charges (charge_on) include (subscription_id);

    create table law_changes (
      one boolean primary key default true check (one),
      reached bigint
    );
    insert into law_changes (reached) values (null);
  `);
  await keepDaySums(sql);
  await serveLists(sql);
};

/** What lists look for and are ordered by. */
async function serveLists(sql: Parameters<Migration['up']>[0]): Promise<void> {
  await sql(`
    alter table customers add since date;
    update customers c set since = s.since
      from (select customer_id, min(starts_on) as since from subscriptions group by 1) s where s.customer_id = c.id;
    create function note_since() returns trigger language plpgsql as $body$
      begin
        update customers c set since = least(c.since, s.since)
          from (select customer_id, min(starts_on) as since from gained group by 1) s
          where c.id = s.customer_id and (c.since is null or c.since > s.since);
        return null;
      end $body$;
    create trigger subscriptions_gained after insert on subscriptions
      referencing new table as gained for each statement execute function note_since();

    create extension if not exists pg_trgm;
    create index customers_by_letters on customers using gin (name gin_trgm_ops, email gin_trgm_ops, reference gin_trgm_ops);
    create index customers_by_name on customers (name, id);
    create index customers_by_email on customers (email, id);
    create index customers_by_since on customers (coalesce(since, created_on), id);
    create index customers_by_group on customers (group_id) where group_id is not null;
    create index subscriptions_by_state on subscriptions (state, id);
    create index subscriptions_by_next on subscriptions (next_on, id);
    create index recovery_cases_by_opening on recovery_cases (opened_on, id);
    create index recovery_cases_by_next on recovery_cases (next_rung_on, id);
    create index recovery_cases_by_state on recovery_cases (state, opened_on, id);
    create index invoices_by_total on invoices (total, id);
    -- Receipts are nearly all there is: they are found by their day.
    create index letters_of_events on letters (event, written_on, id) where event <> 'receipt';
    create index letters_undeliverable on letters (written_on, id) where state = 'undeliverable';
  `);
}

/**
 * Sums of days are kept as what was added and taken away, a few rows for each statement, so that nobody waits for anybody
 * else's: what a day comes to is the sum of its rows, and workers fold them together once a day.
 */
async function keepDaySums(sql: Parameters<Migration['up']>[0]): Promise<void> {
  await sql(`
    create table day_sums (
      on_day date not null,
      kind text not null check (kind in ('collected', 'declined', 'planned')),
      currency char(3) not null,
      payments bigint not null,
      amount numeric not null
    );
    create index day_sums_by_day on day_sums (on_day);

    create function sum_planned() returns trigger language plpgsql as $body$
      begin
        if tg_op <> 'DELETE' then
          insert into day_sums select charge_on, 'planned', currency, sum(payments), sum(amount) from gained group by 1, 3;
        end if;
        if tg_op <> 'INSERT' then
          insert into day_sums select charge_on, 'planned', currency, -sum(payments), -sum(amount) from lost group by 1, 3;
        end if;
        return null;
      end $body$;
    create trigger planned_gained after insert on planned_charges
      referencing new table as gained for each statement execute function sum_planned();
    create trigger planned_altered after update on planned_charges
      referencing new table as gained old table as lost for each statement execute function sum_planned();
    create trigger planned_lost after delete on planned_charges
      referencing old table as lost for each statement execute function sum_planned();

    create function sum_collected() returns trigger language plpgsql as $body$
      begin
        insert into day_sums select paid_on, 'collected', currency, count(*), sum(amount) from gained group by 1, 3;
        return null;
      end $body$;
    create trigger payments_gained after insert on payments
      referencing new table as gained for each statement execute function sum_collected();

    create function sum_declined() returns trigger language plpgsql as $body$
      begin
        if exists (select from gained where state = 'declined') then
          insert into day_sums
            select a.attempted_on, 'declined', i.currency, count(*), sum(a.amount)
            from gained a join invoices i on i.id = a.invoice_id where a.state = 'declined' group by 1, 3;
        end if;
        if tg_op = 'UPDATE' then
          insert into day_sums
            select a.attempted_on, 'declined', i.currency, -count(*), -sum(a.amount)
            from lost a join invoices i on i.id = a.invoice_id where a.state = 'declined' group by 1, 3;
        end if;
        return null;
      end $body$;
    create trigger attempts_gained after insert on attempts
      referencing new table as gained for each statement execute function sum_declined();
    create trigger attempts_altered after update on attempts
      referencing new table as gained old table as lost for each statement execute function sum_declined();

    insert into day_sums select paid_on, 'collected', currency, count(*), sum(amount) from payments group by 1, 3;
    insert into day_sums
      select a.attempted_on, 'declined', i.currency, count(*), sum(a.amount)
      from attempts a join invoices i on i.id = a.invoice_id where a.state = 'declined' group by 1, 3;
  `);
}
