import type { Migration, MigrationSql } from '../migration.ts';
import {
  placeOfVersion2,
  type InvoiceOfPlace,
  type PlaceOfVersion1,
  type TermsOfPlace,
} from '../placeOfVersion1.ts';

/**
 * Prices, invoices, attempts and ends are called as the product calls them, and the places of running subscriptions
 * are carried over to the rules of settlement. The place that was carried over is kept: what was invoiced before it
 * was settled by the rules of then, and is what the terms come to by those.
 */
export const up: Migration['up'] = async (sql) => {
  await namePrices(sql);
  await nameStates(sql);
  await carryPlacesOver(sql);
  await keepCredits(sql);
};

async function namePrices(sql: MigrationSql): Promise<void> {
  await sql(`
    create function pg_temp.tier_named(tier jsonb) returns jsonb language sql immutable as $body$
      select jsonb_object_agg(case key when 'upTo' then 'to' when 'unit' then 'each' when 'flat' then 'amount' else key end, value)
      from jsonb_each(tier)
    $body$;
    create function pg_temp.prices_named(document jsonb) returns jsonb language plpgsql immutable as $body$
    declare
      named text;
    begin
      if jsonb_typeof(document) = 'array' then
        return coalesce((select jsonb_agg(pg_temp.prices_named(one) order by place)
                         from jsonb_array_elements(document) with ordinality as all_of(one, place)), '[]');
      elsif jsonb_typeof(document) <> 'object' or document is null then
        return document;
      end if;
      named := case document ->> 'scheme'
        when 'per-unit' then 'each' when 'graduated' then 'each-tier' when 'volume' then 'reached-tier'
        when 'stairs' then 'step' when 'package' then 'pack' end;
      if named is not null then
        document := document || jsonb_build_object('scheme', named);
        if jsonb_typeof(document -> 'tiers') = 'array' then
          document := document || jsonb_build_object('tiers',
            (select coalesce(jsonb_agg(pg_temp.tier_named(tier) order by place), '[]')
             from jsonb_array_elements(document -> 'tiers') with ordinality as tiers(tier, place)));
        end if;
        return document;
      end if;
      return coalesce((select jsonb_object_agg(key, pg_temp.prices_named(value)) from jsonb_each(document)), '{}');
    end
    $body$;

    alter table rate_versions disable trigger rate_versions_stay;
    update rates set terms = pg_temp.prices_named(terms);
    update rate_versions set terms = pg_temp.prices_named(terms);
    alter table rate_versions enable trigger rate_versions_stay;
    update plans set extras = pg_temp.prices_named(extras);
    update variants set prices = pg_temp.prices_named(prices);
    update rate_card_prices set prices = pg_temp.prices_named(prices);
    update subscriptions set terms = pg_temp.prices_named(terms), extras = pg_temp.prices_named(extras);
    update alterations set asked = pg_temp.prices_named(asked), alteration = pg_temp.prices_named(alteration),
      before = pg_temp.prices_named(before), terms_after = pg_temp.prices_named(terms_after);
  `);
}

async function nameStates(sql: MigrationSql): Promise<void> {
  await sql(`
    alter table invoices drop constraint invoices_state_check;
    drop index one_invoice_per_boundary;
    drop index invoices_open;
    update invoices set state = case state when 'open' then 'issued' else 'withdrawn' end where state in ('open', 'void');
    alter table invoices add constraint invoices_state_check
      check (state in ('draft', 'issued', 'part-paid', 'paid', 'withdrawn', 'written off'));
    create unique index one_invoice_per_boundary on invoices (subscription_id, kind, period_from) where state <> 'withdrawn';
    create or replace view open_dues as
      select invoice_id, place, due_on, of_several, least(amount, until - collected)::bigint as owed
      from (
        select d.invoice_id, d.place, d.due_on, true as of_several, d.amount, i.collected,
          sum(d.amount) over (partition by d.invoice_id order by d.place) as until
        from dues d join invoices i on i.id = d.invoice_id where i.state in ('issued', 'part-paid')
        union all
        select i.id, 1, i.due_on, false, greatest(i.total, 0) - i.credit_used, i.collected,
          greatest(i.total, 0) - i.credit_used
        from invoices i
        where i.state in ('issued', 'part-paid') and not exists (select 1 from dues d where d.invoice_id = i.id)
      ) dated
      where until > collected;
    create index invoices_unpaid on invoices (due_on) where state in ('issued', 'part-paid');

    alter table attempts drop constraint attempts_state_check;
    alter table attempts drop constraint attempts_check;
    drop index one_pending_attempt;
    drop index attempts_pending;
    update attempts set state = 'under way' where state = 'pending';
    alter table attempts add constraint attempts_state_check
      check (state in ('under way', 'collected', 'declined', 'refused', 'withdrawn'));
    alter table attempts add constraint attempts_request_check check (state <> 'under way' or request is not null);
    create unique index one_attempt_under_way on attempts (invoice_id) where state = 'under way';
    create index attempts_under_way on attempts (id) where state = 'under way';

    alter table subscriptions drop constraint subscriptions_ended_why_check;
    update subscriptions s set ended_why = 'not taken up'
      where ended_why = 'completed' and trial_ends_on is not null and closed_on <= trial_ends_on;
    alter table subscriptions add constraint subscriptions_ended_why_check
      check (ended_why in ('completed', 'not taken up', 'cancelled by the customer', 'cancelled by the business', 'given up'));
  `);
}

interface Stored {
  readonly id: string;
  readonly terms: TermsOfPlace;
  readonly walk: PlaceOfVersion1;
  readonly invoicing: string;
  readonly invoices: readonly (InvoiceOfPlace & { readonly kind: string })[];
}

/** So many subscriptions are carried over at a time. */
const BATCH = 500;
const DAY_MS = 86_400_000;

async function carryPlacesOver(sql: MigrationSql): Promise<void> {
  await sql(`
    alter table subscriptions add carried_walk jsonb, add carried_invoices int,
      add check ((carried_walk is null) = (carried_invoices is null));
  `);
  for (let after = '0', rows: readonly Stored[]; ; after = rows.at(-1)?.id ?? after) {
    rows = (await sql(
      `select s.id::text, s.terms, s.walk, s.invoicing, coalesce((
           select json_agg(json_build_object('kind', i.kind, 'from', i.period_from - date '1970-01-01',
             'to', i.period_to - date '1970-01-01', 'lines', i.lines) order by i.id)
           from invoices i where i.subscription_id = s.id and i.state <> 'withdrawn'), '[]') as invoices
       from subscriptions s where s.walk is not null and s.id > $1 order by s.id limit ${BATCH}`,
      [after],
    )) as unknown as readonly Stored[];
    if (rows.length === 0) return;
    for (const { id, terms, walk, invoicing, invoices } of rows) {
      const charged = invoices.filter(({ kind }) => kind === 'stub' || kind === 'period');
      const from = walk.timetable?.stretch?.from ?? Infinity;
      const running = invoices.filter(
        ({ kind, from: day }) => day >= from && ['stub', 'period', 'change'].includes(kind),
      );
      const carried = JSON.stringify(
        placeOfVersion2(
          walk,
          terms,
          invoicing === 'whole' ? [] : running,
          charged.length,
          (date) => Date.parse(date) / DAY_MS,
        ),
      );
      await sql(
        'update subscriptions set walk = $2::jsonb, carried_walk = $2::jsonb, carried_invoices = $3 where id = $1',
        [id, carried, invoices.length],
      );
    }
  }
}

/** What subscriptions that are over have not used up goes to their customers. */
async function keepCredits(sql: MigrationSql): Promise<void> {
  await sql(`
    create table customer_credits (
      id bigint generated always as identity primary key,
      customer_id bigint not null references customers,
      subscription_id bigint not null unique references subscriptions,
      currency char(3) not null,
      amount bigint not null check (amount > 0),
      kept_on date not null
    );
    create index customer_credits_by_customer on customer_credits (customer_id);
    insert into customer_credits (customer_id, subscription_id, currency, amount, kept_on)
      select customer_id, id, terms ->> 'currency', (walk ->> 'credit')::bigint, closed_on from subscriptions
      where state = 'ended' and wake_on is null and (walk ->> 'credit')::bigint > 0;
  `);
}
