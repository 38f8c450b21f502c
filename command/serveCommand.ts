import { join } from 'node:path';
import { Business } from '../server/business/Business.ts';
import { refuseUnsafe } from '../server/config.ts';
import { makeApp } from '../server/http/app.ts';
import { adoptGateway } from '../server/gateways/adopt.ts';
import { makeThreadReady } from '../server/parsing/outsideOfLoop.ts';
import { linkForFirstOwner } from './signInCommand.ts';
import { openAlmanac } from './open.ts';
import { PlainFailure } from './sayAndExit.ts';
import { environmentOfProduction, ROOT } from './settings.ts';

/** `almanac serve`: answers until it is told to stop. */
export async function serveCommand(): Promise<void> {
  const almanac = await openAlmanac(environmentOfProduction, { connections: 20, prepares: true });
  const { config } = almanac;
  const business = await Business.findOne().catch(noBusinessYet);
  if (!business) throw new PlainFailure(NO_BUSINESS);
  refuseUnsafe(config, business.practice);
  await adoptGateway(almanac, config.GATEWAY_SECRET_KEY);
  makeThreadReady();
  const { app } = makeApp(almanac, config, join(ROOT, 'dist', 'web'));
  const ownerLink = config.ALMANAC_DEMO ? null : await linkForFirstOwner(almanac);
  await new Promise<void>((resolve, reject) => {
    const server = app.listen(config.PORT, config.HOST, (error?: Error) => {
      if (error) return reject(portTaken(error, config.PORT));
      console.log(`serving on ${config.HOST}:${config.PORT}`);
      if (ownerLink !== null) console.log(ownerLink);
      const stop = () => server.close(() => resolve());
      process.once('SIGINT', stop);
      process.once('SIGTERM', stop);
      // Who sends slowly, or nothing, is not waited for.
      server.headersTimeout = 15_000;
      server.requestTimeout = 60_000;
      server.keepAliveTimeout = 10_000;
      server.maxRequestsPerSocket = 10_000;
    });
  });
  await almanac.db.close();
  process.exit(0);
}

function portTaken(error: Error, port: number): Error {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  return taken ? new PlainFailure(`The port ${port} is taken by another program.`) : error;
}

const NO_BUSINESS =
  'There is no business in this database yet. Begin one: ./almanac setup business.json (demo/business.json is an example).';

/** Before `setup` the database has no tables: that is said, in place of what the database says. */
function noBusinessYet(error: unknown): never {
  const { code } = (error as { original?: { code?: string } }).original ?? {};
  if (code !== '42P01') throw error;
  throw new PlainFailure(NO_BUSINESS);
}
