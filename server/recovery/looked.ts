import type { Transaction } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import type { Looked } from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import { theBusiness } from '../business/theBusiness.ts';
import type { Climbing } from './climbing.ts';
import { isHeld } from './held.ts';
import { wroteBefore, wroteToday } from './write.ts';

/** How things stand on a day for a case, as `core/recovery` asks: all that its next step goes by. */
export async function lookAt(
  almanac: Almanac,
  climbing: Climbing,
  now: Date,
  within: Transaction,
): Promise<Looked> {
  const { opened, businessDate } = climbing;
  const { practice, timeZone } = await theBusiness(within);
  const tried = await triesOf(almanac, climbing, within);
  return {
    day: toDay(businessDate),
    hour: practice ? null : hourIn(timeZone, now),
    retryHourCome: !opened.retryAt || opened.retryAt <= now,
    waits: await isHeld(almanac, climbing, within),
    wroteToday: await wroteToday(almanac, climbing, within),
    wroteBefore: await wroteBefore(almanac, climbing, within),
    ...tried,
  };
}

/** The hour of the day, 0 to 23, in a time zone. */
export function hourIn(timeZone: string, now: Date): number {
  return Number(
    new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', hourCycle: 'h23' }).format(now),
  );
}

/** What was tried of a case: the rung whose retry was begun and that is not climbed yet, and whether it was tried on this day otherwise. */
export async function triesOf(
  almanac: Pick<Almanac, 'db'>,
  { opened, businessDate }: Pick<Climbing, 'opened' | 'businessDate'>,
  within: Transaction,
): Promise<Pick<Looked, 'begun' | 'triedToday'>> {
  const tried = await almanac.db.row<{ begun: number | null; today: boolean }>(
    `select max(a.rung) filter (where a.case_id = $caseId and a.leg = $leg and a.rung > $lastRung) as begun,
       coalesce(bool_or(a.attempted_on = $businessDate and a.means = 'gateway'
         and not coalesce(a.case_id = $caseId and a.leg = $leg and a.rung > $lastRung, false)), false) as today
     from attempts a join invoices i on i.id = a.invoice_id
     where i.case_id = $caseId and a.state in ('under way', 'collected', 'declined')`,
    { caseId: opened.id, leg: opened.leg, lastRung: opened.lastRung, businessDate },
    within,
  );
  return { begun: tried?.begun ?? null, triedToday: tried?.today ?? false };
}
