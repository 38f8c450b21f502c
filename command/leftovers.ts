import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { stopLeftCluster } from './cluster.ts';
import { PlainFailure } from './sayAndExit.ts';
import { DEMO_FOLDER, ROOT } from './settings.ts';

/** Which processes the demo runs: kept in a file, so that those of a demo that was killed can be found again. */
const RECORD = join(DEMO_FOLDER, 'processes.json');

interface Running {
  readonly demo: number;
  readonly parts: readonly number[];
}

/** Writes down the processes of this demo. */
export function recordProcesses(parts: readonly number[]): void {
  writeFileSync(RECORD, JSON.stringify({ demo: process.pid, parts } satisfies Running));
}

/**
 * Ends what a demo that was killed has left running, its database last. A demo that still runs is left alone.
 * @throws {@link PlainFailure} where it does
 */
export async function endLeftovers(): Promise<void> {
  if (!existsSync(RECORD)) return;
  const { demo, parts } = JSON.parse(readFileSync(RECORD, 'utf8')) as Running;
  if (demo !== process.pid && isOurs(demo)) {
    throw new PlainFailure(
      'The demo is running already on this machine. Stop it with Ctrl-C where it was started.',
    );
  }
  const left = parts.filter(isOurs);
  for (const pid of left) process.kill(pid, 'SIGTERM');
  for (let tries = 0; left.some(isOurs) && tries < 50; tries += 1) await pause(100);
  for (const pid of left.filter(isOurs)) process.kill(pid, 'SIGKILL');
  stopLeftCluster(join(DEMO_FOLDER, 'postgres'));
}

/** Whether a process runs a program of this checkout: a number may long belong to somebody else's. */
function isOurs(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(ROOT);
  } catch {
    return false;
  }
}
