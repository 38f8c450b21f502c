import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ROOT } from './settings.ts';

/* The command itself, in a checkout of its own: a copy of the sources beside the packages of this one. */
let checkout: string;
beforeAll(() => {
  checkout = mkdtempSync(join(tmpdir(), 'checkout-'));
  for (const name of [
    'almanac',
    'command',
    'core',
    'server',
    'standins',
    'testing',
    'package.json',
    'package-lock.json',
    'tsconfig.json',
  ])
    cpSync(join(ROOT, name), join(checkout, name), { recursive: true, preserveTimestamps: true });
  symlinkSync(join(ROOT, 'node_modules'), join(checkout, 'node_modules'));
});
afterAll(() => rmSync(checkout, { recursive: true }));

async function almanac(...words: string[]): Promise<{ status: number | null; out: string; error: string }> {
  const { ALMANAC_BUNDLE: _, ...env } = process.env;
  const child: ChildProcess = spawn(join(checkout, 'almanac'), words, {
    env,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  if (!child.stdout || !child.stderr) throw new Error('it has no output');
  const [out, error] = await Promise.all([text(child.stdout), text(child.stderr), once(child, 'close')]);
  return { status: child.exitCode, out, error };
}
const bundles = () => readdirSync(join(checkout, 'dist')).toSorted();

test('whoever comes at the same time makes one bundle, and changed sources make another beside it', async () => {
  const first = await Promise.all([almanac('--help'), almanac('--help'), almanac('preview', '--help')]);
  for (const { status, error } of first)
    expect([status, error.replace(/^npm warn.*\n/gm, '')]).toEqual([0, '']);
  expect(first[0]?.out).toContain('Keen Almanac runs a subscription business.');
  expect(first[2]?.out).toContain('what terms come to, day by day');
  expect(bundles()).toEqual([expect.stringMatching(/^run-[0-9a-f]{16}$/)]);

  const file = join(checkout, 'command', 'main.ts');
  const source = readFileSync(file, 'utf8');
  writeFileSync(file, source.replace('runs a subscription business.', 'runs another business.'));
  expect((await almanac('--help')).out).toContain('Keen Almanac runs another business.');
  expect(bundles(), 'what still runs from the first finds it').toHaveLength(2);
});

test('what is wrong is said in a sentence, from the bundle as from the sources', async () => {
  const bundled = await almanac('setup', 'no-such-file.json');
  // Nothing can be written where a file stands in the place of the folder.
  rmSync(join(checkout, 'dist'), { recursive: true });
  writeFileSync(join(checkout, 'dist'), '');
  const asTheyAre = await almanac('setup', 'no-such-file.json');
  expect(asTheyAre).toEqual(bundled);
  expect(bundled.status).toBe(1);
  expect(bundled.error).toContain('no-such-file.json');
  expect((await almanac('preview', '--help')).out).toContain('what terms come to, day by day');
});
