import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf, NO_METHOD, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { mayRetry, type FinalAction, type LadderPolicy, type Rung } from '../../core/recovery/ladder.ts';
import type { CaseStanding } from '../../core/recovery/stepOfCase.ts';
import { sayDate } from '../../core/words/date.ts';
import { CLOSED_HOW, type ClosedHow } from './closedHow.ts';
import type { CaseState } from './messages.ts';

/** What is done at the end of a ladder. */
export const FINALS: Readonly<Record<FinalAction, string>> = {
  lapse: 'it lapses, invoice open',
  end: 'the subscription ends',
  'lapse and write off': 'it lapses, written off',
  leave: 'all is left as it is',
};

type Collects = 'automatic' | 'by hand';

/** What a rung does for a class of decline, as a list of acts. */
export function sayRung(rung: Rung, declineClass: DeclineClass, collects: Collects): string {
  const acts = [
    collects === 'automatic' && mayRetry(rung, declineClass) ? 'try the card again' : '',
    rung.acts?.kind === 'pause' ? 'stop the service' : '',
    rung.letter ? 'write' : '',
    rung.tellsStaff ? 'tell staff' : '',
    rung.acts?.kind === 'task' ? `task: ${rung.acts.says}` : '',
  ].filter(Boolean);
  return acts.join(', ') || 'nothing: there is no card to try';
}

/** Why a case was opened, or is open still, in plain words. */
export function sayWhy(code: string | null, collects: 'automatic' | 'by hand'): string {
  if (code !== null) return meaningOf(code).says;
  return collects === 'by hand' ? 'the invoice has not been paid' : NO_METHOD.says;
}

/** What comes next of an open case. */
export function sayNext(
  standing: CaseStanding,
  { rungs, finalAction }: Pick<LadderPolicy, 'rungs' | 'finalAction'>,
  collects: Collects,
): string {
  const rung = rungs[standing.nextRung];
  if (standing.retryOn !== null && standing.retryOn <= standing.nextOn) return 'ask the bank again';
  return rung ? sayRung(rung, standing.declineClass, collects) : FINALS[finalAction];
}

/** When it comes: not before today, also where something is waited for that should have come. */
export function nextDate(standing: CaseStanding, today: string): string {
  const { nextOn, retryOn, asideUntil } = standing;
  return formatDay(Math.max(Math.min(nextOn, retryOn ?? nextOn), asideUntil ?? 0, toDay(today)));
}

/** How a case stands, in a sentence. */
export function sayCase(of: {
  readonly state: CaseState;
  readonly closedHow: ClosedHow | null;
  readonly declineClass: DeclineClass;
  readonly collects: 'automatic' | 'by hand';
  readonly asideUntil: string | null;
  readonly next: string;
}): string {
  const how = of.closedHow === null ? '' : `: ${CLOSED_HOW[of.closedHow]}`;
  if (of.state === 'recovered') return `Recovered${how}.`;
  if (of.state === 'given up') return `Given up${how}.`;
  const asks = of.collects === 'automatic' && (of.declineClass === 'ask' || of.declineClass === 'never');
  return [
    of.asideUntil === null ? '' : `Set aside until ${sayDate(of.asideUntil)}.`,
    asks ? 'Only the customer can mend this card.' : '',
    `Next: ${of.next}.`,
  ]
    .filter(Boolean)
    .join(' ');
}
