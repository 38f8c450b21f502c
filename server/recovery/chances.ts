import { toDay } from '../../core/dates/day.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import { chanceOfCase, chancesIn } from '../../core/whatIf/expected.ts';
import { fitModel } from '../../core/whatIf/model.ts';
import type { LadderPolicy } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { readPastRecovery } from './pastRecovery.ts';
import { policyOf, standingOf, type StoredStanding } from './standing.ts';

/** The chances that the model of one business day gives; they are fitted to what had happened when they were first asked for. */
const kept = new WeakMap<Almanac, { readonly today: string; readonly chances: Promise<Float64Array> }>();

function chancesOn(almanac: Almanac, today: string): Promise<Float64Array> {
  const known = kept.get(almanac);
  if (known?.today === today) return known.chances;
  const chances = readPastRecovery(almanac).then(({ past }) => chancesIn(fitModel(past)));
  kept.set(almanac, { today, chances });
  // What failed is asked for again.
  chances.catch(() => kept.delete(almanac));
  return chances;
}

interface OpenCase extends StoredStanding, LadderPolicy {
  readonly collects: 'automatic' | 'by hand';
  readonly retries: number;
  readonly letters: number;
  readonly lastLetterOn: string | null;
}

/**
 * Says of open cases how likely they are to be recovered before their ladders end, 0 to 1, by the model of what-if. Null where
 * it is paid by hand: the model is of declined payments.
 */
export async function chancesOfCases(
  almanac: Almanac,
  today: string,
): Promise<(of: OpenCase) => number | null> {
  const chances = await chancesOn(almanac, today);
  const working = (await loadLaw(almanac)).homeWorkingDays();
  return (of) => {
    if (of.collects === 'by hand') return null;
    const standing = standingOf(of);
    const from = Math.max(toDay(today), standing.asideUntil ?? 0);
    const ladder = policyOf(of);
    const late = Math.max(from - standing.nextOn, 0);
    return chanceOfCase(
      { ...standing, nextOn: standing.nextOn + late, waited: standing.waited + late, asideUntil: null },
      { ladder, calendar: ladder.manner.workingDays ? working : EVERY_DAY },
      {
        ...{ from, failedOn: standing.openedOn, retries: of.retries, letters: of.letters },
        lastLetterOn: of.lastLetterOn === null ? null : toDay(of.lastLetterOn),
      },
      chances,
    );
  };
}
