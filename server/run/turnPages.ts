import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { clockDate } from './clockDate.ts';
import { PageTurn } from './PageTurn.ts';
import { askForWaiting, turnDay } from './turnDay.ts';

/** Asks for pages to be turned up to a date, or gives the turn that is already under way. The workers see to it. */
export function askForTurn(almanac: Almanac, to: string): Promise<PageTurn> {
  return almanac.db.transaction(async (within) => {
    const lock = within.LOCK.UPDATE;
    const business = await Business.findOne({ transaction: within, lock, rejectOnEmpty: true });
    const underWay = await turnUnderWay();
    if (underWay) return underWay;
    return PageTurn.create(
      { fromDate: business.businessDate, toDate: to, state: 'turning', says: '' },
      { transaction: within },
    );
  });
}

function turnUnderWay(): Promise<PageTurn | null> {
  return PageTurn.findOne({ where: { state: ['turning', 'waiting'] } });
}

/**
 * Goes on with the turn under way, day by day, until its date is reached, together with every other worker that is at it.
 * Does nothing where no turn is under way.
 */
export async function turnPages(almanac: Almanac, signal?: AbortSignal): Promise<void> {
  for (;;) {
    signal?.throwIfAborted();
    const turn = await turnUnderWay();
    if (!turn) return;
    const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
    if (businessDate >= turn.toDate) {
      await turn.update({ state: 'done', says: '' });
      continue;
    }
    try {
      await turnDay(almanac, businessDate, { again: false, ...(signal ? { signal } : {}) });
    } catch (error) {
      if (!signal?.aborted)
        await turn.update({ state: 'waiting', says: 'Something went wrong. We try again by ourselves.' });
      throw error;
    }
    await moveBusinessDate(almanac, businessDate, formatDay(toDay(businessDate) + 1));
    if (turn.state === 'waiting') await turn.update({ state: 'turning', says: '' });
  }
}

/** Moves the business date on, if it is still the one that was turned: it is never set back, and no day is left out. */
export async function moveBusinessDate(almanac: Almanac, from: string, to: string): Promise<void> {
  await almanac.db.rows(
    'update business set business_date = $to where business_date = $from and business_date < $to::date',
    { from, to },
  );
}

/**
 * What is looked at every minute. In production every day up to today by the clock is turned, those missed first and
 * closed, today again each time; in practice, where days are turned by hand, what waits for an answer is asked for again.
 */
export async function keepUp(almanac: Almanac, now: Date, signal?: AbortSignal): Promise<void> {
  const asked = signal ? { signal } : {};
  const business = await Business.findOne({ rejectOnEmpty: true });
  if (business.practice) {
    if (!(await turnUnderWay())) await askForWaiting(almanac, business.businessDate, signal);
    return;
  }
  const today = toDay(clockDate(business.timeZone, now));
  for (let day = toDay(business.businessDate); day <= today; day += 1) {
    const closing = day < today;
    await turnDay(almanac, formatDay(day), { ...asked, now, closing, again: true });
    signal?.throwIfAborted();
    if (closing) await moveBusinessDate(almanac, formatDay(day), formatDay(day + 1));
  }
}
