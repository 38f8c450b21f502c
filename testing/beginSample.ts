import type { Almanac } from '../server/almanac.ts';
import { beginBusiness } from '../server/business/beginBusiness.ts';
import { migrate } from '../server/db/migrate.ts';
import { connectByKey } from '../server/gateways/connect.ts';
import { migrateQueue } from '../server/run/worker.ts';

/**
 * Begins the business that tests, simulation and benchmarks are about, in an empty database: in practice, on a day, and
 * connected to the gateway account of a key.
 * @param secretKey null where no gateway is connected yet
 */
export async function beginSample(
  almanac: Almanac,
  startsOn: string,
  secretKey: string | null,
): Promise<void> {
  await migrate(almanac.db.sequelize);
  await migrateQueue(almanac.db.url);
  const file = {
    name: 'Fenmarsh Hives',
    homeCurrency: 'GBP',
    timeZone: 'Europe/London',
    senderAddress: 'accounts@fenmarsh-hives.example',
    statementText: 'FENMARSH HIVES',
    practice: { startsOn, turnTo: startsOn },
  };
  await beginBusiness(almanac, file, new Date(0));
  if (secretKey !== null) await connectByKey(almanac, secretKey, 'environment');
}
