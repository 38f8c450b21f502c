import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { clockDate } from './clockDate.ts';
import { PageTurn } from './PageTurn.ts';
import { addJob } from './queue.ts';
import { askForWaiting, turnDay } from './turnDay.ts';
import { whileHolding } from './runLock.ts';

/** A turn waits so long for the lock of a worker that may just have died. */
const PATIENCE_MS = 5_000;

/** Asks for pages to be turned up to a date, or gives the turn that is already under way. */
export function askForTurn(almanac: Almanac, to: string): Promise<PageTurn> {
  return almanac.db.transaction(async (within) => {
    const lock = within.LOCK.UPDATE;
    const business = await Business.findOne({ transaction: within, lock, rejectOnEmpty: true });
    const underWay = await PageTurn.findOne({
      where: { state: ['turning', 'waiting'] },
      transaction: within,
    });
    if (underWay) return underWay;
    const turn = await PageTurn.create(
      { fromDate: business.businessDate, toDate: to, state: 'turning', says: '' },
      { transaction: within },
    );
    await addJob(almanac.db, 'turn-pages', {}, 'turn-pages', within);
    return turn;
  });
}

/**
 * Goes on with the turn under way, day by day, until its date is reached. Only one process turns pages at a
 * time; a turn whose process died is taken up by the next that comes.
 */
export async function turnPages(almanac: Almanac): Promise<void> {
  await whileHolding(
    almanac.db,
    async (signal) => {
      for (;;) {
        const turn = await PageTurn.findOne({ where: { state: ['turning', 'waiting'] } });
        if (!turn) return;
        const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
        if (businessDate >= turn.toDate) {
          await turn.update({ state: 'done', says: '' });
          continue;
        }
        try {
          await turnDay(almanac, businessDate, signal);
          signal.throwIfAborted();
        } catch (error) {
          await turn.update({ state: 'waiting', says: 'Something went wrong. We try again by ourselves.' });
          throw error;
        }
        await moveBusinessDate(almanac, businessDate, formatDay(toDay(businessDate) + 1));
        if (turn.state === 'waiting') await turn.update({ state: 'turning', says: '' });
      }
    },
    PATIENCE_MS,
  );
}

/** Moves the business date on, if it is still the one that was turned: it is never set back, and no day is left out. */
export async function moveBusinessDate(almanac: Almanac, from: string, to: string): Promise<void> {
  await almanac.db.rows(
    'update business set business_date = $to where business_date = $from and business_date < $to::date',
    { from, to },
  );
}

/**
 * What is looked at every minute. In production every day up to today by the clock is turned, those missed first, today
 * again each time; in practice, where days are turned by hand, what waits for an answer is asked for again.
 */
export async function keepUp(almanac: Almanac, now: Date): Promise<void> {
  await whileHolding(almanac.db, async (signal) => {
    const business = await Business.findOne({ rejectOnEmpty: true });
    if (business.practice) return askForWaiting(almanac, business.businessDate, signal);
    const today = toDay(clockDate(business.timeZone, now));
    const reached = toDay(business.businessDate);
    for (let day = reached; day <= today; day += 1) {
      await turnDay(almanac, formatDay(day), signal);
      signal.throwIfAborted();
      if (day > reached) await moveBusinessDate(almanac, formatDay(day - 1), formatDay(day));
    }
  });
}
