import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { GatewayAway } from '../gateways/port.ts';
import { clockDate } from './clockDate.ts';
import { PageTurn } from './PageTurn.ts';
import { addJob } from './queue.ts';
import { turnDay } from './turnDay.ts';
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
 * @throws {@link GatewayAway} where the gateway is away: the turn waits, and the queue tries again
 */
export async function turnPages(almanac: Almanac): Promise<void> {
  await whileHolding(
    almanac.db,
    async () => {
      for (;;) {
        const turn = await PageTurn.findOne({ where: { state: ['turning', 'waiting'] } });
        if (!turn) return;
        const business = await Business.findOne({ rejectOnEmpty: true });
        if (business.businessDate >= turn.toDate) {
          await turn.update({ state: 'done', says: '' });
          continue;
        }
        try {
          await turnDay(almanac, business.businessDate);
        } catch (error) {
          const says =
            error instanceof GatewayAway
              ? 'The gateway does not answer. Nothing was declined; we try again by ourselves.'
              : 'Something went wrong. We try again by ourselves.';
          await turn.update({ state: 'waiting', says });
          throw error;
        }
        await business.update({ businessDate: formatDay(toDay(business.businessDate) + 1) });
        if (turn.state === 'waiting') await turn.update({ state: 'turning', says: '' });
      }
    },
    PATIENCE_MS,
  );
}

/** In production: turns every day up to today by the clock, those missed first, today again each time. */
export async function keepUp(almanac: Almanac, now: Date): Promise<void> {
  const business = await Business.findOne({ rejectOnEmpty: true });
  if (business.practice) return;
  const today = clockDate(business.timeZone, now);
  await whileHolding(almanac.db, async () => {
    for (let day = toDay(business.businessDate); day <= toDay(today); day += 1) {
      await turnDay(almanac, formatDay(day));
      await business.update({ businessDate: formatDay(day) });
    }
  });
}
