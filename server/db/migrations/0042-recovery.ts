import type { Migration } from '../migration.ts';

/**
 * Ladders with versions, for whom each is, and how their retries are made; how far a case has climbed, as
 * `core/recovery/stepOfCase` keeps it; who looks after a case, until when it is set aside, and by what it was closed; notes
 * of calls; on which days links were opened; the service of somebody who owes, stopped.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table ladders
      add manner jsonb not null default '{"soonHours": [2, 8], "fromHour": 0, "payDays": [], "payDayWithin": 3, "workingDays": false}',
      add serves jsonb not null default '{}',
      add line_id bigint references ladders,
      add is_current boolean not null default true,
      add place int not null default 0,
      add made_on date,
      add made_by text not null default '';
    update ladders l set line_id = (select min(f.id) from ladders f where f.name = l.name), is_current = l.is_default;
    alter table ladders drop constraint ladders_name_version_key;
    create unique index ladder_versions on ladders (line_id, version);
    create unique index one_current_version on ladders (line_id) where is_current;
    create unique index current_ladder_names on ladders (lower(name)) where is_current;

    alter table recovery_cases
      add class_from int not null default 0,
      add passed jsonb not null default '[]',
      add last_rung int not null default -1,
      add last_on date,
      add retried int not null default 0,
      add waited int not null default 0,
      add leg int not null default 0,
      add aside_until date,
      add assigned_to bigint references people,
      add closed_how text check (closed_how in ('retry', 'new method', 'by the customer', 'by staff', 'transfer', 'cash', 'cheque',
        'other', 'credit', 'ladder', 'given up by staff', 'written off'));
    update recovery_cases k set retried = case when retry_on is null then 0 else 1 end;
    update recovery_cases k set last_rung = r.rung, last_on = r.climbed_on
      from (select case_id, max(rung) as rung, max(climbed_on) as climbed_on from rungs_climbed group by case_id) r
      where r.case_id = k.id;
    create index recovery_cases_by_person on recovery_cases (assigned_to) where state = 'open';

    alter table rungs_climbed add leg int not null default 0, add ladder_id bigint references ladders;
    update rungs_climbed r set ladder_id = k.ladder_id from recovery_cases k where k.id = r.case_id;
    alter table rungs_climbed alter ladder_id set not null, drop constraint rungs_climbed_pkey,
      add primary key (case_id, leg, rung);
    alter table attempts add leg int not null default 0;

    alter table notes add case_id bigint references recovery_cases,
      add kind text not null default 'note' check (kind in ('note', 'call'));
    create index notes_of_case on notes (case_id) where case_id is not null;

    create table link_visits (
      link_id bigint not null references customer_links on delete cascade,
      visited_on date not null,
      visited_at timestamptz not null default now(),
      primary key (link_id, visited_on)
    );

    alter table subscriptions add service_stopped_on date;

    -- Collecting that somebody has stopped, of everybody or of one customer: from a day on, until the day on which it goes on.
    create table suspensions (
      id bigint generated always as identity primary key,
      customer_id bigint references customers,
      from_on date not null,
      until_on date not null check (until_on > from_on),
      why text not null check (length(why) <= 500),
      made_by text not null,
      ended_on date,
      ended_by text not null default ''
    );
    create unique index one_suspension on suspensions (coalesce(customer_id, 0)) where ended_on is null;
    create index suspensions_of_customer on suspensions (customer_id);
  `);
};
