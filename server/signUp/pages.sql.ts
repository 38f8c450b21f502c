import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { ListStatement } from '../http/list.ts';
import { likePattern } from '../http/list.ts';
import type { PageNumbers } from './messages.ts';

/** Numbers of a page are of so many days. */
export const NUMBERED_DAYS = 90;

/** What a list of pages shows, with what their visitors did in the days before one. */
export interface ListedPage {
  readonly id: string;
  readonly key: string;
  readonly title: string;
  readonly plans: string;
  readonly isOn: boolean;
  readonly until: string | null;
  readonly places: number | null;
  readonly joined: number;
  readonly offered: number;
  readonly seen: number;
  readonly monthly: readonly { readonly currency: string; readonly amount: string }[];
  readonly archivedOn: string | null;
}

/** Whether a page is closed, of those that are on: the same as `closedOn`, for filters. */
const CLOSED = `case when not is_on then 'off' when until < $today then 'over' when joined >= places then 'full'
  when offered = 0 then 'nothing' end`;

/** The list of pages: `state` is 'on', 'closed' or 'archived'; without one, all that are not archived. */
export function pageList(search: string, state: string, today: string, since: string): ListStatement {
  return {
    select: `select id, key, title, plans, is_on as "isOn", until, places, joined, offered, seen, monthly, archived_on as "archivedOn"
      from (
        select p.id, p.key, p.is_on, (p.value ->> 'until')::date as until, p.places, p.archived_on,
          (select count(*)::int from agreements a where a.page_id = p.id) as joined,
          coalesce(p.value -> 'texts' -> (p.value ->> 'language') ->> 'title', p.key) as title,
          (select coalesce(string_agg(distinct l.name, ', '), '') from rates r join plans l on l.id = r.plan_id
           where r.id in (select jsonb_array_elements_text(p.value -> 'rates')::bigint)) as plans,
          (select count(*)::int from rates r join plans l on l.id = r.plan_id
           where r.id in (select jsonb_array_elements_text(p.value -> 'rates')::bigint)
             and r.archived_on is null and l.archived_on is null) as offered,
          (select count(*)::int from sign_up_visits v where v.page_id = p.id and v.seen_on >= $since) as seen,
          (select coalesce(json_agg(json_build_object('currency', m.currency, 'amount', m.monthly::text) order by m.currency), '[]')
           from (${MONTHLY('p.id')}) m) as monthly
        from sign_up_pages p) as pages
      where (title ilike $pattern or key ilike $pattern or plans ilike $pattern)
        and case $state when 'archived' then archived_on is not null
                        when 'on' then archived_on is null and ${CLOSED} is null
                        when 'closed' then archived_on is null and ${CLOSED} is not null
                        else archived_on is null end`,
    bound: { pattern: likePattern(search), state, today, since },
    sorts: { title: 'title', joined: 'joined', seen: 'seen' },
  };
}

/** What those who joined on a page bring a month, by currency: of who goes on still. */
function MONTHLY(page: string): string {
  return `select s.currency, sum(s.monthly) as monthly from agreements a join subscriptions s on s.id = a.subscription_id
    where a.page_id = ${page} and s.state in ('active', 'overdue') and s.monthly > 0 group by s.currency`;
}

/** The pages that offer a plan, and are not archived, by title. */
export function pagesOfPlan(
  { db }: Almanac,
  planId: string,
): Promise<{ id: string; title: string; isOn: boolean }[]> {
  return db.rows(
    `select p.id::text, coalesce(p.value -> 'texts' -> (p.value ->> 'language') ->> 'title', p.key) as title, p.is_on as "isOn"
     from sign_up_pages p
     where p.archived_on is null and exists (
       select 1 from rates r where r.plan_id = $planId
         and r.id in (select jsonb_array_elements_text(p.value -> 'rates')::bigint))
     order by 2`,
    { planId },
  );
}

/** How many have joined on a page. */
export async function joinedOn({ db }: Almanac, pageId: string, within?: Transaction): Promise<number> {
  const counted = await db.row<{ n: number }>(
    'select count(*)::int as n from agreements where page_id = $pageId',
    { pageId },
    within,
  );
  return counted?.n ?? 0;
}

/** How far the visitors of a page came since a day, and what those who joined bring a month. */
export async function numbersOf({ db }: Almanac, pageId: string, since: string): Promise<PageNumbers> {
  const steps = await db.rows<{ step: number; n: number }>(
    `select step, count(*)::int as n from sign_up_visits where page_id = $pageId and seen_on >= $since group by step`,
    { pageId, since },
  );
  const monthly = await db.rows<{ currency: string; amount: string }>(
    `select currency, monthly::text as amount from (${MONTHLY('$pageId')}) m order by currency`,
    { pageId },
  );
  const reached = [0, 1, 2, 3, 4].map((least) =>
    steps.filter(({ step }) => step >= least).reduce((sum, { n }) => sum + n, 0),
  );
  return { reached, monthly, days: NUMBERED_DAYS };
}
