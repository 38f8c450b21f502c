import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { unnested } from '../db/unnested.ts';
import { STEPS } from './messages.ts';

const JOINED = STEPS.indexOf('joined');

/**
 * Notes how far a visitor of a page has come; nobody goes back. The number of a visit is made by the browser and kept nowhere
 * in it: it tells nothing of who came.
 */
export async function noteVisit(
  almanac: Almanac,
  of: { readonly pageId: string; readonly visit: string; readonly step: number },
): Promise<void> {
  await almanac.db.rows(
    `insert into sign_up_visits (id, page_id, seen_on, step) values ($visit, $pageId, $on, $step)
     on conflict (id) do update set step = greatest(sign_up_visits.step, excluded.step)
     where sign_up_visits.page_id = excluded.page_id and sign_up_visits.step < ${JOINED}`,
    { ...of, on: await businessDateOf(almanac) },
  );
}

/**
 * Visits that are about to join, locked in the order of their numbers: whoever sends the same once more waits here.
 * @returns the subscriptions that some of them joined with before, by their visits
 */
export async function joiningVisits(
  { db }: Almanac,
  all: readonly { readonly pageId: string; readonly visit: string; readonly on: string }[],
  within: Transaction,
): Promise<Map<string, string>> {
  const { table, bound } = unnested(
    { visit: 'text', page_id: 'bigint', seen_on: 'date' },
    all.map(({ pageId, visit, on }) => ({ visit, page_id: pageId, seen_on: on })),
  );
  await db.rows(
    `insert into sign_up_visits (id, page_id, seen_on, step)
     select distinct on (visit::uuid) visit::uuid, page_id, seen_on, ${JOINED - 1} from ${table} order by visit::uuid
     on conflict (id) do nothing`,
    bound,
    within,
  );
  const found = await db.rows<{ visit: string; subscriptionId: string | null }>(
    `select v.id::text as visit, v.subscription_id::text as "subscriptionId" from sign_up_visits v
     where v.id = any($visits::uuid[]) order by v.id for update`,
    { visits: all.map(({ visit }) => visit) },
    within,
  );
  return new Map(
    found.flatMap(({ visit, subscriptionId }) =>
      subscriptionId === null ? [] : [[visit, subscriptionId] as const],
    ),
  );
}

/** Visits that came to nothing are counted for so long. */
const KEPT = '400 days';

/** Forgets visits of long ago that joined nobody. */
export async function forgetOldVisits({ db }: Pick<Almanac, 'db'>): Promise<void> {
  await db.rows(
    `delete from sign_up_visits where subscription_id is null and seen_on < (select business_date from business) - interval '${KEPT}'`,
  );
}

/** Visits have joined. */
export async function noteJoined(
  { db }: Almanac,
  all: readonly { readonly visit: string; readonly subscriptionId: string }[],
  within: Transaction,
): Promise<void> {
  const { table, bound } = unnested(
    { visit: 'text', subscription_id: 'bigint' },
    all.map(({ visit, subscriptionId }) => ({ visit, subscription_id: subscriptionId })),
  );
  await db.rows(
    `update sign_up_visits v set step = ${JOINED}, subscription_id = x.subscription_id from ${table} where v.id = x.visit::uuid`,
    bound,
    within,
  );
}
