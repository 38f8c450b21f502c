import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import getPort from 'get-port';
import { buildInterface } from './build.ts';
import { startCluster } from './cluster.ts';
import { requireChromium, requirePostgres } from './packages.ts';
import { PlainFailure } from './sayAndExit.ts';
import { ROOT } from './settings.ts';

/** A check: its name, and the program with its words. */
type Check = readonly [string, string, ...string[]];

const CHECKS: readonly Check[] = [
  ['formatting', 'prettier', '--check', '--log-level', 'warn', '.'],
  ['types', 'tsc', '-p', '.'],
  ['lint', 'eslint', '.'],
  ['import rules', 'depcruise', 'core', 'server', 'web', 'standins', 'command'],
  ['unit, service and run tests', 'vitest', 'run'],
];

/** `almanac test`: every check and every test, as CI runs them. Goes on after a failure, and fails at the end. */
export async function testCommand(): Promise<void> {
  requirePostgres();
  requireChromium();
  const failed: string[] = [];
  let passed = 0;
  const note = (name: string, good: boolean, began: number) => {
    console.log(`${good ? 'passed' : 'FAILED'}: ${name} (${((Date.now() - began) / 1000).toFixed(0)} s)`);
    if (good) passed += 1;
    else failed.push(name);
  };
  for (const [name, program, ...words] of CHECKS) {
    const began = Date.now();
    note(name, run(program, words), began);
  }
  const began = Date.now();
  await buildInterface(() => console.log('The interface is being built …'));
  const cluster = await startCluster(join(ROOT, '.almanac', 'test'), await getPort(), { fast: true });
  try {
    note('browser tests', run('playwright', ['test'], { TEST_DATABASE_URL: cluster.url('postgres') }), began);
  } finally {
    cluster.stop();
  }
  console.log(`${passed} passed, ${failed.length} failed`);
  if (failed.length > 0) throw new PlainFailure(`Failed: ${failed.join(', ')}.`);
}

function run(program: string, words: readonly string[], environment: Record<string, string> = {}): boolean {
  const { status } = spawnSync(join(ROOT, 'node_modules', '.bin', program), words, {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, ...environment },
  });
  return status === 0;
}
