import { DECLINE_CLASSES, type DeclineClass } from './declineCodes.ts';
import { mayRetry, MOST_ATTEMPTS, serves, type LadderPolicy } from './ladder.ts';

/** What is wrong with a ladder: where, as a JSON Pointer (RFC 6901), and what is allowed. */
export interface LadderFault {
  readonly pointer: string;
  readonly says: string;
}

/** What a decline of a class is, to say whom a ladder forgets. */
export const CLASS_WORDS: Readonly<Record<DeclineClass, string>> = {
  wait: 'no money, over a limit, or no reason given',
  soon: 'the bank or the network is away',
  ask: 'only the customer can mend it',
  never: 'lost, stolen, or withdrawn',
};

/** The faults of a ladder whose members are each within their bounds; none: it may be saved. */
export function checkLadder(ladder: LadderPolicy): LadderFault[] {
  return [
    ...rungFaults(ladder),
    ...orderFaults(ladder),
    ...silenceFaults(ladder),
    ...attemptFaults(ladder),
    ...hourFaults(ladder),
  ];
}

function rungFaults({ rungs }: LadderPolicy): LadderFault[] {
  return rungs.flatMap((rung, i) => {
    const { retry, letter, tellsStaff, acts, classes } = rung;
    const at = `/rungs/${i}`;
    if (!retry && !letter && !tellsStaff && !acts)
      return [{ pointer: at, says: 'Say what is done on this rung, or take it away.' }];
    if (classes?.length === 0)
      return [{ pointer: `${at}/classes`, says: 'Choose for which declines it is climbed.' }];
    if (retry && !DECLINE_CLASSES.some((one) => mayRetry(rung, one)))
      return [
        {
          pointer: `${at}/retry`,
          says: 'A card that only its holder can mend is not tried again: choose other declines, or no retry.',
        },
      ];
    if (acts?.kind === 'task' && acts.says.trim() === '')
      return [{ pointer: `${at}/acts/says`, says: 'Say what is to be done.' }];
    return [];
  });
}

/** For each class its rungs ascend, and the final action comes after the last. */
function orderFaults({ rungs, finalAfterDays }: LadderPolicy): LadderFault[] {
  const faults: LadderFault[] = [];
  rungs.forEach((rung, i) => {
    const before = rungs[i - 1];
    if (before && rung.afterDays < before.afterDays)
      faults.push({ pointer: `/rungs/${i}/afterDays`, says: 'Put the rungs in the order of their days.' });
    const met = rungs
      .slice(0, i)
      .find(
        (other) =>
          other.afterDays === rung.afterDays &&
          DECLINE_CLASSES.some((one) => serves(other, one) && serves(rung, one)),
      );
    if (met)
      faults.push({
        pointer: `/rungs/${i}/afterDays`,
        says: `Another rung is on day ${rung.afterDays} for the same decline: put them together, or on two days.`,
      });
    if (rung.afterDays >= finalAfterDays)
      faults.push({
        pointer: '/finalAfterDays',
        says: `The end comes after every rung: later than day ${rung.afterDays}.`,
      });
  });
  return faults.filter((fault, i) => faults.findIndex(({ pointer }) => pointer === fault.pointer) === i);
}

/** Nobody lapses in silence: whoever may lose the subscription is written to before, whatever the decline. */
function silenceFaults({ rungs, finalAction }: LadderPolicy): LadderFault[] {
  if (finalAction === 'leave') return [];
  const silent = DECLINE_CLASSES.filter((one) => !rungs.some((rung) => rung.letter && serves(rung, one)));
  if (silent.length === 0) return [];
  const whom =
    silent.length === DECLINE_CLASSES.length
      ? ''
      : ` where ${silent.map((one) => CLASS_WORDS[one]).join(', or ')}`;
  return [
    {
      pointer: '/finalAction',
      says: `Nobody lapses in silence: add a letter before the end${whom}, or leave all as it is.`,
    },
  ];
}

/** A ladder does not plan more attempts than are ever made: the first try is one of them. */
function attemptFaults({ rungs }: LadderPolicy): LadderFault[] {
  const { attempts, days } = MOST_ATTEMPTS;
  for (const one of ['wait', 'soon'] as const) {
    const tried = [0, ...rungs.filter((rung) => mayRetry(rung, one)).map(({ afterDays }) => afterDays)];
    const over = tried.find(
      (day) => tried.filter((other) => other > day - days && other <= day).length > attempts,
    );
    if (over !== undefined)
      return [
        {
          pointer: `/rungs/${rungs.findIndex((rung) => rung.afterDays === over && mayRetry(rung, one))}/retry`,
          says: `At most ${attempts} attempts are made in ${days} days, the first among them: take retries away.`,
        },
      ];
  }
  return [];
}

function hourFaults({ manner: { soonHours } }: LadderPolicy): LadderFault[] {
  const falls = soonHours.findIndex((hours, i) => i > 0 && hours <= (soonHours[i - 1] ?? 0));
  return falls < 0
    ? []
    : [{ pointer: `/manner/soonHours/${falls}`, says: 'Each is later than the one before.' }];
}
