import type { InferAttributes, Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import type { LadderPolicy } from '../../core/recovery/ladder.ts';
import {
  hoursUntilAsked,
  type Again,
  type CaseStanding,
  type Climbed,
} from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { loadLaw } from '../subscriptions/law.ts';
import type { Ladder } from './Ladder.ts';
import type { RecoveryCase } from './RecoveryCase.ts';

/** The policy that a version of a ladder holds. */
export function policyOf({ rungs, finalAction, finalAfterDays, manner }: LadderPolicy): LadderPolicy {
  return { rungs, finalAction, finalAfterDays, manner };
}

/** What a case is climbed by: its ladder, and the working days where the business is. */
export async function climbedBy(almanac: Almanac, ladder: Ladder, within: Transaction): Promise<Climbed> {
  const policy = policyOf(ladder);
  const calendar = policy.manner.workingDays ? (await loadLaw(almanac, within)).homeWorkingDays() : EVERY_DAY;
  return { ladder: policy, calendar };
}

/** When a bank that is away is asked again: within hours, or, where a clock of practice knows none, on the next day. */
export async function againFrom(
  almanac: Almanac,
  businessDate: string,
  within: Transaction,
): Promise<Again & { readonly now: Date }> {
  const { practice } = await theBusiness(within);
  const today = toDay(businessDate);
  return { practice, now: almanac.clock(), dayAfter: () => (practice ? today + 1 : today) };
}

/** The columns by which it is known how far a case has climbed. */
export type StoredStanding = Pick<
  InferAttributes<RecoveryCase>,
  | ('openedOn' | 'declineClass' | 'classFrom' | 'waited' | 'passed' | 'lastRung' | 'lastOn')
  | ('nextRung' | 'nextRungOn' | 'retryOn' | 'retried' | 'asideUntil')
>;

/** How far a case has climbed, as it is stored. */
export function standingOf(stored: StoredStanding): CaseStanding {
  const day = (date: string | null | undefined) => (date ? toDay(date) : null);
  return {
    openedOn: toDay(stored.openedOn),
    declineClass: stored.declineClass,
    classFrom: stored.classFrom,
    waited: stored.waited,
    passed: stored.passed,
    lastRung: stored.lastRung,
    lastOn: day(stored.lastOn),
    nextRung: stored.nextRung,
    nextOn: toDay(stored.nextRungOn ?? stored.openedOn),
    retryOn: day(stored.retryOn),
    retried: stored.retried,
    asideUntil: day(stored.asideUntil),
  };
}

/** The columns that keep a standing. From which instant of its day a bank is asked again is kept beside it (`askedAt`). */
export function columnsOf(standing: CaseStanding) {
  const { declineClass, classFrom, lastRung, nextRung, retried, waited } = standing;
  const date = (day: number | null) => (day === null ? null : formatDay(day));
  return {
    ...{ declineClass, classFrom, lastRung, nextRung, retried, waited, passed: [...standing.passed] },
    lastOn: date(standing.lastOn),
    nextRungOn: formatDay(standing.nextOn),
    retryOn: date(standing.retryOn),
    asideUntil: date(standing.asideUntil),
    ...(standing.retryOn === null ? { retryAt: null } : {}),
  };
}

/** From which instant on a bank that has just not answered is asked again; a clock of practice knows the day alone. */
export function askedAt(
  standing: CaseStanding,
  climbed: Climbed,
  { practice, now }: { readonly practice: boolean; readonly now: Date },
): { retryAt: Date | null } {
  const hours = practice ? null : hoursUntilAsked(standing, climbed);
  return { retryAt: hours === null ? null : new Date(now.getTime() + hours * 3_600_000) };
}
