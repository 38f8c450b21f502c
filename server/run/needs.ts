import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

/** Something on the day sheet that a person must see to. */
export interface Need {
  /** Names what it is about, so that one thing is never listed twice. */
  readonly onceKey: string;
  readonly arose: string;
  readonly kind: string;
  readonly says: string;
  readonly subscriptionId: string | null;
  readonly customerId: string | null;
}

/** Puts something on the day sheet. */
export async function raiseNeed(
  almanac: Almanac,
  within: Transaction | undefined,
  need: Need,
): Promise<void> {
  await almanac.db.rows(
    `insert into needs (once_key, arose_on, kind, says, subscription_id, customer_id)
     values ($onceKey, $arose, $kind, $says, $subscriptionId, $customerId)
     on conflict (once_key) do nothing`,
    { ...need },
    within,
  );
}

/** The same, for what may arise again after it was seen to: it is on the sheet anew. */
export async function raiseNeedAgain(
  almanac: Pick<Almanac, 'db'>,
  within: Transaction,
  need: Need,
): Promise<void> {
  await almanac.db.rows(
    `insert into needs (once_key, arose_on, kind, says, subscription_id, customer_id)
     values ($onceKey, $arose, $kind, $says, $subscriptionId, $customerId)
     on conflict (once_key) do update
       set arose_on = excluded.arose_on, kind = excluded.kind, says = excluded.says, settled_on = null
       where needs.settled_on is not null`,
    { ...need },
    within,
  );
}

/** Takes one off by hand: somebody has seen to it. Gives whether there was one to take off. */
export async function markSeenTo(almanac: Almanac, id: string, businessDate: string): Promise<boolean> {
  const seen = await almanac.db.row(
    'update needs set settled_on = $businessDate where id = $id and settled_on is null returning id',
    { id, businessDate },
  );
  return seen !== null;
}

/** Takes it off again, on the day it was seen to. */
export async function settleNeeds(
  almanac: Pick<Almanac, 'db'>,
  within: Transaction,
  onceKey: string,
  businessDate: string,
): Promise<void> {
  await almanac.db.rows(
    'update needs set settled_on = $businessDate where once_key = $onceKey and settled_on is null',
    { onceKey, businessDate },
    within,
  );
}
