import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { PlainFailure } from '../sayAndExit.ts';
import { ROOT } from '../settings.ts';
import { peakMb } from './BenchedBusiness.ts';

/** How often the memory of a process is looked at, in milliseconds. */
const LOOKS_MS = 50;

/**
 * Runs a command of the almanac to its end, as it is run in a shell.
 * @throws PlainFailure where it fails and may not, with what it said
 */
export async function runMeasured(
  words: readonly string[],
  environment: Readonly<Record<string, string>>,
  { mayFail = false }: { readonly mayFail?: boolean } = {},
): Promise<{ readonly seconds: number; readonly peakMb: number }> {
  const began = performance.now();
  const child = spawn(join(ROOT, 'almanac'), words, {
    env: { ...process.env, ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (chunk: Buffer) => (said = (said + chunk.toString()).slice(-2_000)));
  let most = 0;
  const looks = setInterval(() => {
    // The process may have ended since.
    try {
      most = Math.max(most, peakMb(child));
    } catch {
      clearInterval(looks);
    }
  }, LOOKS_MS);
  const [code] = (await once(child, 'exit')) as [number | null];
  clearInterval(looks);
  if (code !== 0 && !mayFail)
    throw new PlainFailure(`almanac ${words.join(' ')} ended with ${code}: ${said}`);
  return { seconds: (performance.now() - began) / 1000, peakMb: most };
}
