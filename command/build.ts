import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PlainFailure } from './sayAndExit.ts';
import { ROOT } from './settings.ts';

/** The interface of staff and of customers' own pages; then the small one on which customers join, which stands beside it. */
const CONFIGS = ['vite.config.ts', 'vite.join.config.ts', 'vite.embed.config.ts'] as const;

/** Builds the interface where its sources have changed since it was last built. */
export async function buildInterface(saying: () => void): Promise<void> {
  const stamp = join(ROOT, 'dist', 'web', '.sources');
  const sources = hashOf(['web', 'core', 'server', ...CONFIGS, 'vite.compressed.ts', 'package-lock.json']);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === sources) return;
  saying();
  const vite = join(ROOT, 'node_modules', 'vite', 'bin', 'vite.js');
  for (const config of CONFIGS) {
    const built = spawnSync(process.execPath, [vite, 'build', '--config', config, '--logLevel', 'error'], {
      cwd: ROOT,
      encoding: 'utf8',
    });
    if (built.status !== 0)
      throw new PlainFailure(`The interface could not be built:\n${built.stderr || built.stdout}`);
  }
  writeFileSync(stamp, sources);
}

function hashOf(names: readonly string[]): string {
  const hash = createHash('sha256');
  const add = (path: string) => {
    if (!existsSync(path)) return;
    if (!/\.[a-z]+$/.test(path)) {
      for (const name of readdirSync(path).sort()) add(join(path, name));
    } else hash.update(path).update(readFileSync(path));
  };
  for (const name of names) add(join(ROOT, name));
  return hash.digest('hex');
}
