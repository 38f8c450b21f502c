import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { PlainFailure } from './sayAndExit.ts';

/** The folder of the checkout. */
export const ROOT = folderOfPackage(import.meta.dirname);

/** The sources stand one folder down from there, and what is bundled of them two. */
function folderOfPackage(from: string): string {
  return existsSync(join(from, 'package.json')) ? from : folderOfPackage(dirname(from));
}

/** Where the demo keeps everything of its own. */
export const DEMO_FOLDER = join(ROOT, '.almanac', 'demo');
/** What the running demo's parts are configured by, so that other commands find it. */
export const DEMO_ENVIRONMENT = join(DEMO_FOLDER, 'environment.json');

/** The environment of who means production: what is left behind by the demo on this machine is never taken for it. */
export function environmentOfProduction(): NodeJS.ProcessEnv {
  if (process.env.DATABASE_URL || !existsSync(DEMO_ENVIRONMENT)) return process.env;
  throw new PlainFailure(
    'Nothing is configured: DATABASE_URL is not set. For the sample business of this folder run ./almanac demo; for your own set the environment (README, Settings).',
  );
}

/** The environment, or that of the demo on this machine where no DATABASE_URL is set. */
export function environment(): NodeJS.ProcessEnv {
  if (process.env.DATABASE_URL || !existsSync(DEMO_ENVIRONMENT)) return process.env;
  return {
    ...(JSON.parse(readFileSync(DEMO_ENVIRONMENT, 'utf8')) as Record<string, string>),
    ...process.env,
  };
}
