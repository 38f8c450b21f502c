import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { RefusedCommand } from '../http/problem.ts';
import { connectByKey } from './connect.ts';
import { GatewayAccount } from './GatewayAccount.ts';

/**
 * Connects the gateway account whose key stands in the environment, where none has ever been connected. One that
 * does not answer now is left for Setup.
 */
export async function adoptGateway(almanac: Almanac, key: string | undefined): Promise<void> {
  if (key === undefined || (await GatewayAccount.count()) > 0 || !(await Business.findOne())) return;
  await connectByKey(almanac, key, 'environment').catch((error: unknown) => {
    if (!(error instanceof RefusedCommand)) throw error;
    console.error(`The gateway of the environment was not connected: ${error.message}`);
  });
}
