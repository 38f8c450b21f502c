import { toDay } from '../../core/dates/day.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import { startingPolicy, type StartingLadderKey } from '../../core/recovery/startingLadders.ts';
import { Chance } from '../../core/whatIf/chance.ts';
import { checkModel } from '../../core/whatIf/checkModel.ts';
import { fitModel } from '../../core/whatIf/model.ts';
import { replay } from '../../core/whatIf/replay.ts';
import { suggestLadder } from '../../core/whatIf/suggest.ts';
import { AROUND_PAY_DAY, playPast } from '../../testing/pastRecovery.ts';
import type { BenchOptions } from './options.ts';

const DECLINES = 10_000;
const DRAWS = 1_000;
const ROUNDS = 3;

/** `almanac bench what-if`: ladders compared on a made-up past, against as many draws of chance done bare. */
export function benchWhatIf({ json = false }: BenchOptions): void {
  const climbed = (key: StartingLadderKey) => ({ ladder: startingPolicy(key), calendar: EVERY_DAY });
  const steady = climbed('steady');
  const past = playPast(
    { count: DECLINES, from: toDay('2026-01-01'), days: 365 },
    steady,
    AROUND_PAY_DAY,
    new Chance(1),
  );
  const model = fitModel(past);
  const draws = { draws: DRAWS, seed: 1 };
  const wanted = { endsOn: 21, letterWorth: 50, retryWorth: 10, finalAction: 'lapse' } as const;
  const usual = { manner: steady.ladder.manner, calendar: EVERY_DAY };
  const figures = {
    bareMs: fastest(() => bare(DECLINES * DRAWS)),
    fitMs: fastest(() => fitModel(past)),
    checkMs: fastest(() => checkModel(past, EVERY_DAY)),
    oneLadderMs: fastest(() => replay(model, past.declines, [steady], draws)),
    twoLaddersMs: fastest(() => replay(model, past.declines, [steady, climbed('payday')], draws)),
    suggestMs: fastest(() => suggestLadder(model, past.declines, wanted, usual)),
  };
  if (json) return console.log(JSON.stringify(figures));
  const ms = (value: number) => `${Math.round(value).toLocaleString('en')} ms`;
  console.log(
    `${DECLINES.toLocaleString('en')} declines, ${DRAWS.toLocaleString('en')} draws; the fastest of ${ROUNDS} rounds`,
  );
  console.log(`bare            ${ms(figures.bareMs)}  so many draws of chance, each looked at and summed`);
  console.log(`fit             ${ms(figures.fitMs)}`);
  console.log(`check           ${ms(figures.checkMs)}  on the later part of the past`);
  console.log(
    `one ladder      ${ms(figures.oneLadderMs)}  ${(figures.oneLadderMs / figures.bareMs).toFixed(1)} times bare (asked: under 2,000 ms)`,
  );
  console.log(
    `two ladders     ${ms(figures.twoLaddersMs)}  one of them with a course of its own for every day`,
  );
  console.log(`suggest         ${ms(figures.suggestMs)}  a ladder that ends on day 21`);
}

function fastest(work: () => unknown): number {
  let best = Infinity;
  for (let round = 0; round < ROUNDS; round += 1) {
    const began = performance.now();
    work();
    best = Math.min(best, performance.now() - began);
  }
  return best;
}

function bare(count: number): number {
  const chance = new Chance(1);
  let above = 0;
  for (let i = 0; i < count; i += 1) if (chance.uniform() > 0.5) above += 1;
  return above;
}
