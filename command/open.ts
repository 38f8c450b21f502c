import { readConfig, type Config } from '../server/config.ts';
import { Database } from '../server/db/database.ts';
import { followAlterations } from '../server/forecast/follow.ts';
import { workLog } from '../server/log.ts';
import { Gateways } from '../server/gateways/Gateways.ts';
import type { Almanac } from '../server/almanac.ts';
import { environment } from './settings.ts';
import { PlainFailure } from './sayAndExit.ts';

/** Opens what every command works with, as the environment (or the demo on this machine) says. */
export async function openAlmanac(
  from: () => NodeJS.ProcessEnv = environment,
  options: { readonly connections?: number; readonly prepares?: boolean } = {},
): Promise<Almanac & { readonly config: Config }> {
  const config = readConfig(from());
  const db = new Database(config.DATABASE_URL, { ...options, heavyReads: config.HEAVY_READS });
  try {
    await db.sequelize.authenticate();
  } catch (error) {
    const { host } = new URL(config.DATABASE_URL);
    throw new PlainFailure(
      `The database at ${host} cannot be reached: ${(error as Error).message}. Is it running?`,
    );
  }
  const almanac = {
    ...{ db, config, gateways: new Gateways(config), log: workLog(config) },
    clock: () => new Date(),
  };
  followAlterations(almanac);
  return almanac;
}
