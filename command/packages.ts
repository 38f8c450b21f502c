import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { PlainFailure } from './sayAndExit.ts';

/** The folder of PostgreSQL's programs, newest version first, or null where it is not installed. */
function postgresFolder(): string | null {
  const root = '/usr/lib/postgresql';
  const versions = existsSync(root) ? readdirSync(root).sort((a, b) => Number(b) - Number(a)) : [];
  const version = versions.find((name) => existsSync(`${root}/${name}/bin/postgres`));
  return version === undefined ? null : `${root}/${version}/bin`;
}

/** Finds PostgreSQL's programs, after installing Debian's package where it is missing. */
export function requirePostgres(): string {
  if (postgresFolder() === null) install('postgresql-15', 'The database PostgreSQL');
  const folder = postgresFolder();
  if (folder === null)
    throw new PlainFailure('PostgreSQL is installed but its programs are not in /usr/lib/postgresql.');
  return folder;
}

/** Makes sure that Debian's Chromium is there, which the browser tests drive. */
export function requireChromium(): void {
  if (!existsSync('/usr/bin/chromium')) install('chromium', 'The browser Chromium');
}

function install(name: string, what: string): void {
  console.log(`${what} is missing; installing Debian's package ${name} …`);
  const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const run = (...words: string[]) => {
    const [program = '', ...rest] = [...sudo, ...words];
    return spawnSync(program, rest, { env, encoding: 'utf8', maxBuffer: 64_000_000 });
  };
  run('apt-get', 'update');
  const done = run('apt-get', 'install', '-y', '--no-install-recommends', name);
  if (done.status !== 0) {
    const why = (done.stderr || done.error?.message || '').trim().split('\n').at(-1) ?? '';
    throw new PlainFailure(
      `${what} is missing and could not be installed (apt-get install ${name}: ${why}).`,
    );
  }
}
