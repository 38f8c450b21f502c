import { fork, type ChildProcess } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { Played } from '../../testing/simulation/playSeed.ts';
import { PlainFailure } from '../sayAndExit.ts';
import { bundled } from '../../server/bundled.ts';
import { ROOT } from '../settings.ts';
import type { BenchOptions } from './options.ts';

/**
 * `almanac bench faults`: plays many seeds of the simulation of the run under faults, a lane for each processor, and prints
 * each seed that failed with the command that plays it again.
 */
export async function benchFaults({ seeds, from }: BenchOptions): Promise<void> {
  const [count, first] = [Number(seeds), Number(from)];
  if (!Number.isInteger(count) || count < 1)
    throw new PlainFailure('Give a number of seeds, such as --seeds 100.');
  if (!Number.isInteger(first)) throw new PlainFailure('Give the first seed, such as --from 1.');
  const left = Array.from({ length: count }, (_, i) => first + i);
  const failed: Played[] = [];
  let played = 0;
  const began = Date.now();
  const lanes = Math.min(count, availableParallelism());
  await Promise.all(
    Array.from({ length: lanes }, (_, lane) =>
      work(lane, left, (one) => {
        played += 1;
        if (one.wrong.length > 0) {
          failed.push(one);
          console.log(`seed ${one.seed} failed; again: ./almanac bench faults --seeds 1 --from ${one.seed}`);
          for (const says of one.wrong.slice(0, 12)) console.log(`    ${says}`);
        }
        if (played % 25 === 0)
          console.log(`${played} of ${count} seeds, ${failed.length} failed, ${seconds(began)} s`);
      }),
    ),
  );
  console.log(
    `${count} seeds were played in ${seconds(began)} s; ${count - failed.length} clean, ${failed.length} failed.`,
  );
  if (failed.length > 0) process.exitCode = 1;
}

const seconds = (began: number) => Math.round((Date.now() - began) / 1000);

/** One lane: a process that is handed seed after seed until none is left. */
function work(lane: number, left: number[], tell: (played: Played) => void): Promise<void> {
  return new Promise((resolve, reject) => {
    const child: ChildProcess = fork(
      bundled('command/bench/faultsLane.ts') ?? join(ROOT, 'command', 'bench', 'faultsLane.ts'),
      [String(lane)],
    );
    const next = () => {
      const seed = left.shift();
      child.send(seed ?? 'end');
    };
    child.on('message', (message: Played | 'ready') => {
      if (message !== 'ready') tell(message);
      next();
    });
    child.once('error', reject);
    child.once('exit', (code) =>
      code === 0 ? resolve() : reject(new PlainFailure(`Lane ${lane} ended by itself (exit ${code}).`)),
    );
  });
}
