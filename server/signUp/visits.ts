import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
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
 * A visit that is about to join, locked: whoever sends the same once more waits here.
 * @returns the subscription that it joined with before; null: it has not
 */
export async function joiningVisit(
  almanac: Almanac,
  of: { readonly pageId: string; readonly visit: string; readonly on: string },
  within: Transaction,
): Promise<string | null> {
  const { db } = almanac;
  await db.rows(
    `insert into sign_up_visits (id, page_id, seen_on, step) values ($visit, $pageId, $on, ${JOINED - 1}) on conflict (id) do nothing`,
    { ...of },
    within,
  );
  const found = await db.row<{ subscriptionId: string | null }>(
    'select subscription_id::text as "subscriptionId" from sign_up_visits where id = $visit and page_id = $pageId for update',
    { visit: of.visit, pageId: of.pageId },
    within,
  );
  return found?.subscriptionId ?? null;
}

/** Visits that came to nothing are counted for so long. */
const KEPT = '400 days';

/** Forgets visits of long ago that joined nobody. */
export async function forgetOldVisits({ db }: Pick<Almanac, 'db'>): Promise<void> {
  await db.rows(
    `delete from sign_up_visits where subscription_id is null and seen_on < (select business_date from business) - interval '${KEPT}'`,
  );
}

/** A visit has joined. */
export async function noteJoined(
  { db }: Almanac,
  of: { readonly visit: string; readonly subscriptionId: string },
  within: Transaction,
): Promise<void> {
  await db.rows(
    `update sign_up_visits set step = ${JOINED}, subscription_id = $subscriptionId where id = $visit`,
    { ...of },
    within,
  );
}
