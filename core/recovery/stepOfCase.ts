import type { Day } from '../dates/day.ts';
import type { WorkingDays } from '../dates/workingDay.ts';
import type { DeclineClass } from './declineCodes.ts';
import { isTriable, mayRetry, serves, type LadderPolicy, type Rung } from './ladder.ts';
import { ladderDays } from './ladderDays.ts';

/**
 * What a case does next, as values: nothing here reads a clock, a database or a gateway. Whoever stores a case keeps a
 * {@link CaseStanding} and the ladder version it follows, asks {@link nextStep} what a day brings, does that, and keeps
 * what {@link afterRung}, {@link follow} or {@link onto} gives.
 */

/** How far an open case has climbed. */
export interface CaseStanding {
  readonly openedOn: Day;
  /** Days that it waited for something that was no fault of the customer: its ladder does not count them. */
  readonly waited: number;
  /** Of the latest method and answer. */
  readonly declineClass: DeclineClass;
  /** The day of its ladder, 0 the first, from which it has been of this class. */
  readonly classFrom: number;
  /** Rungs that the class of their own day did not want: they are behind, whatever the class becomes. */
  readonly passed: readonly number[];
  /** The last rung that was climbed, by its place in the ladder; −1: none yet. */
  readonly lastRung: number;
  /** The day on which it was. */
  readonly lastOn: Day | null;
  /** The rung that comes next; as many as the ladder has: the final action. */
  readonly nextRung: number;
  readonly nextOn: Day;
  /** A bank or network that is away is asked again from this day on, before the next rung. */
  readonly retryOn: Day | null;
  /** How many times it was asked again since the last rung. */
  readonly retried: number;
  /** Nothing is done for it before this day: somebody has set it aside. */
  readonly asideUntil: Day | null;
}

/** What a case is climbed by. */
export interface Climbed {
  readonly ladder: LadderPolicy;
  readonly calendar: WorkingDays;
}

/** How things stand on the day that is looked at. */
export interface Looked {
  readonly day: Day;
  /** The hour of the business's day, 0 to 23; null where a day of practice knows none. */
  readonly hour: number | null;
  /** Whether the instant has come from which a bank that was away is asked again. */
  readonly retryHourCome: boolean;
  /** Something that is no fault of the customer is waited for: an account, an answer, a person, a suspension. */
  readonly waits: boolean;
  /** The customer was written to about the case on an earlier day. */
  readonly wroteBefore: boolean;
  /** The customer got a recovery letter on this day. */
  readonly wroteToday: boolean;
  /** An attempt on an invoice of the case, other than for the rung in hand, was made on this day. */
  readonly triedToday: boolean;
  /** A rung whose retry was begun and that is not climbed yet: it is gone through with, whatever its answer was. */
  readonly begun: number | null;
}

export type NextStep =
  | { readonly kind: 'nothing'; readonly because: 'it waits' | 'set aside' | 'not yet' | 'the hour' }
  /** The customer was written to on this day: what comes next comes a day later. */
  | { readonly kind: 'put off'; readonly standing: CaseStanding }
  | { readonly kind: 'early retry' }
  | {
      readonly kind: 'rung';
      readonly rung: number;
      readonly does: Rung;
      readonly retries: boolean;
      /** It would be tried again, and was tried on this day already. */
      readonly sparesRetry: boolean;
    }
  /** Nobody lapses in silence: a last letter goes out first, and the end comes some days after it. */
  | { readonly kind: 'last letter'; readonly standing: CaseStanding }
  | { readonly kind: 'final action' };

/** The end of who was never written to comes so many days after the letter that is written instead of it. */
export const LAST_LETTER_DAYS = 3;

/** What a day brings for an open case. */
export function nextStep(standing: CaseStanding, { ladder }: Climbed, looked: Looked): NextStep {
  const { day, begun } = looked;
  if (looked.waits) return { kind: 'nothing', because: 'it waits' };
  const inHand = begun === null ? undefined : ladder.rungs[begun];
  if (inHand?.letter && looked.wroteToday) return { kind: 'put off', standing: putOff(standing, day) };
  if (begun !== null && inHand)
    return { kind: 'rung', rung: begun, does: inHand, retries: true, sparesRetry: false };
  if (standing.asideUntil !== null && day < standing.asideUntil)
    return { kind: 'nothing', because: 'set aside' };
  if (standing.retryOn !== null && standing.retryOn <= day && looked.retryHourCome)
    return { kind: 'early retry' };
  if (day < standing.nextOn) return { kind: 'nothing', because: 'not yet' };
  const does = ladder.rungs[standing.nextRung];
  if ((does?.letter ?? true) && looked.wroteToday)
    return { kind: 'put off', standing: putOff(standing, day) };
  if (does === undefined) {
    if (looked.wroteBefore || ladder.finalAction === 'leave') return { kind: 'final action' };
    return { kind: 'last letter', standing: { ...standing, nextOn: day + LAST_LETTER_DAYS } };
  }
  const wanted = mayRetry(does, standing.declineClass);
  const retries = wanted && !looked.triedToday;
  if (retries && looked.hour !== null && looked.hour < ladder.manner.fromHour)
    return { kind: 'nothing', because: 'the hour' };
  return { kind: 'rung', rung: standing.nextRung, does, retries, sparesRetry: wanted && !retries };
}

/** What comes next comes a day later; what was waited with until now has not let the ladder go on. */
function putOff(standing: CaseStanding, day: Day): CaseStanding {
  return { ...standing, nextOn: day + 1, waited: standing.waited + Math.max(day - standing.nextOn, 0) };
}

/**
 * A case as it stands when it is opened. Where time alone may mend the failure within hours, its first rung waits for the
 * next day: nobody is written to of a bank that was away.
 */
export function openStanding(
  climbed: Climbed,
  declineClass: DeclineClass,
  day: Day,
  again: Again,
): CaseStanding {
  const fresh: CaseStanding = {
    ...{ openedOn: day, waited: 0, declineClass, lastRung: -1, lastOn: null, nextRung: 0, nextOn: day },
    ...{ retryOn: null, retried: 0, asideUntil: null, classFrom: 0, passed: [] },
  };
  const asked = askedAgain(fresh, climbed, again);
  const from = declineClass === 'soon' ? day + 1 : day;
  return { ...asked, ...comesNext(asked, climbed, from) };
}

/** When a bank that is away would be asked again: after the given hours; a clock of practice knows only the next day. */
export interface Again {
  /** The day that it would be after so many hours. */
  readonly dayAfter: (hours: number) => Day;
  readonly practice: boolean;
}

/**
 * The case is of the class of the latest method and answer. A rung that the class of its own day did not want stays behind;
 * one whose day has not come is climbed if the new class wants it.
 * @param inHand the rung whose retry gave this answer and that is not climbed yet; what follows it is found after it
 */
export function follow(
  standing: CaseStanding,
  climbed: Climbed,
  declineClass: DeclineClass,
  day: Day,
  { again, inHand = null }: { readonly again: Again; readonly inHand?: number | null },
): CaseStanding {
  // An answer to a rung's own retry begins the hours anew, and so does the first of its kind.
  const begins = inHand !== null || standing.declineClass !== declineClass;
  const same = { ...standing, declineClass, ...(begins ? { retried: 0 } : {}) };
  const asked =
    declineClass === 'soon'
      ? askedAgain(same, climbed, again)
      : isTriable(declineClass) && standing.declineClass === declineClass
        ? same
        : { ...same, retryOn: null };
  if (standing.declineClass === declineClass) return asked;
  // What stood due and was waited with did not let the ladder go on.
  const late = Math.max(day - standing.nextOn, 0);
  const ladderDay = day - late - baseOf(standing);
  const unwanted = climbed.ladder.rungs.flatMap((rung, at) => {
    const came = rung.afterDays >= standing.classFrom && rung.afterDays < ladderDay;
    return came && !serves(rung, standing.declineClass) ? [at] : [];
  });
  const turned = { ...asked, classFrom: ladderDay, passed: [...standing.passed, ...unwanted] };
  if (inHand !== null) return turned;
  const waited = standing.waited + late;
  const from = Math.max(day, (standing.lastOn ?? day - 1) + 1);
  return { ...turned, waited, ...comesNext({ ...turned, waited }, climbed, from) };
}

/**
 * A rung has been climbed on a day: the next one of the class comes on its day, and not on the same. Where it was climbed later
 * than it came, because something was waited for, all that follows comes so many days later too.
 */
export function afterRung(standing: CaseStanding, climbed: Climbed, rung: number, day: Day): CaseStanding {
  const late = rung === standing.nextRung ? Math.max(day - standing.nextOn, 0) : 0;
  const after = { ...standing, lastRung: rung, lastOn: day, waited: standing.waited + late };
  return { ...after, ...comesNext(after, climbed, day + 1) };
}

/**
 * The case goes on by another ladder, or another version of it: what was climbed stays climbed. Rungs of the new one whose
 * day is over are left out, and nothing more comes on a day on which something was climbed. Days that it waited until now are
 * not counted by the new one either.
 */
export function onto(standing: CaseStanding, climbed: Climbed, day: Day): CaseStanding {
  const from = standing.lastOn === null ? day : Math.max(day, standing.lastOn + 1);
  const now = { ...standing, waited: standing.waited + Math.max(day - standing.nextOn, 0) };
  const days = daysOf(now, climbed);
  const passed = [...days].flatMap(([at, on]) => (on < from && at < climbed.ladder.rungs.length ? [at] : []));
  const left = climbed.ladder.rungs.flatMap((rung, at) =>
    baseOf(now) + rung.afterDays < from && !days.has(at) ? [at] : [],
  );
  const fresh = { ...now, lastRung: -1, passed: [...passed, ...left] };
  return { ...fresh, ...comesNext(fresh, climbed, from) };
}

/** What is to come of a case if nothing happens: its rungs with their days, and the final action. */
export function toCome(
  standing: CaseStanding,
  climbed: Climbed,
): { readonly rungs: { readonly rung: number; readonly on: Day }[]; readonly finalOn: Day } {
  const rungs: { rung: number; on: Day }[] = [];
  let now = standing;
  while (now.nextRung < climbed.ladder.rungs.length) {
    rungs.push({ rung: now.nextRung, on: now.nextOn });
    now = afterRung(now, climbed, now.nextRung, now.nextOn);
  }
  return { rungs, finalOn: now.nextOn };
}

function askedAgain(standing: CaseStanding, { ladder }: Climbed, again: Again): CaseStanding {
  if (standing.declineClass !== 'soon') return standing;
  const { soonHours } = ladder.manner;
  const { retried } = standing;
  const hours = soonHours[retried];
  if (hours === undefined || (again.practice && retried > 0)) return { ...standing, retryOn: null };
  const since = hours - (soonHours[retried - 1] ?? 0);
  return { ...standing, retryOn: again.dayAfter(since), retried: retried + 1 };
}

/** How many hours after the answer it is asked again, where it is: for the instant that is kept beside the day. */
export function hoursUntilAsked({ retried, retryOn }: CaseStanding, { ladder }: Climbed): number | null {
  if (retryOn === null || retried === 0) return null;
  const { soonHours } = ladder.manner;
  return (soonHours[retried - 1] ?? 0) - (soonHours[retried - 2] ?? 0);
}

/** The day that the rungs of a case are counted from. */
const baseOf = ({ openedOn, waited }: CaseStanding): Day => openedOn + waited;

type DaysByPlace = ReadonlyMap<number, Day>;

/** The last days that were worked out of each ladder in hand: one case asks for the same again and again. */
const known = new WeakMap<
  Climbed,
  { readonly base: Day; readonly of: DeclineClass; readonly days: DaysByPlace }
>();

/** The days of the rungs that its class is climbed by, by their places; the final action at the end of the ladder. */
function daysOf(standing: CaseStanding, climbed: Climbed): DaysByPlace {
  const base = baseOf(standing);
  const of = standing.declineClass;
  const before = known.get(climbed);
  if (before?.base === base && before.of === of) return before.days;
  const { rungs, finalOn } = ladderDays(climbed.ladder, base, of, climbed.calendar);
  const days = new Map([
    ...rungs.map(({ rung, on }) => [rung, on] as const),
    [climbed.ladder.rungs.length, finalOn] as const,
  ]);
  known.set(climbed, { base, of, days });
  return days;
}

/** The first rung that is ahead and that its class is climbed by; it comes no earlier than `from`. */
function comesNext(
  standing: CaseStanding,
  climbed: Climbed,
  from: Day,
): Pick<CaseStanding, 'nextRung' | 'nextOn'> {
  const { lastRung, passed } = standing;
  const days = daysOf(standing, climbed);
  const ahead = climbed.ladder.rungs.findIndex(
    (_, at) => at > lastRung && days.has(at) && !passed.includes(at),
  );
  const nextRung = ahead < 0 ? climbed.ladder.rungs.length : ahead;
  return { nextRung, nextOn: Math.max(days.get(nextRung) ?? from, from) };
}
