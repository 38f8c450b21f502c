import type { Config } from './config.ts';
import type { Database } from './db/database.ts';
import type { GatewayPort } from './gateways/port.ts';

/** What every command and query works with. */
export interface Almanac {
  readonly db: Database;
  readonly gateway: GatewayPort;
  readonly config: Pick<Config, 'ALMANAC_URL' | 'ALMANAC_SECRET'>;
}
