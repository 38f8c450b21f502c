import { isDeepStrictEqual } from 'node:util';
import { scenarioOf } from './scenario.ts';
import type { Outcome, Simulation } from './Simulation.ts';

/** What was wrong with a seed; nothing where it was played clean. */
export interface Played {
  readonly seed: number;
  readonly wrong: readonly string[];
  /** So many times money went back. */
  readonly refunds: number;
}

/**
 * Plays one seed twice, in peace and under its blows. Both times everything that is always true must be, each charge be
 * made once and each letter sent, and what came of it be the same to the penny.
 */
export async function playSeed(simulation: Simulation, seed: number): Promise<Played> {
  const scenario = scenarioOf(seed);
  const calm = await simulation.play(scenario, true);
  const struck = await simulation.play(scenario, false);
  return {
    ...{ seed, refunds: struck.outcome.refunds.length },
    wrong: [
      ...calm.wrong.map((says) => `in peace: ${says}`),
      ...struck.wrong,
      ...differences(calm.outcome, struck.outcome),
    ],
  };
}

function differences(calm: Outcome, struck: Outcome): string[] {
  return (Object.keys(calm) as (keyof Outcome)[]).flatMap((part) =>
    calm[part].flatMap((one, i) => {
      const other = struck[part][i];
      return isDeepStrictEqual(one, other)
        ? []
        : [`${part}: in peace ${JSON.stringify(one)}, under blows ${JSON.stringify(other)}`];
    }),
  );
}
