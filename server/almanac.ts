import type { Config } from './config.ts';
import type { Database } from './db/database.ts';
import type { Gateways } from './gateways/Gateways.ts';

/** What every command and query works with. */
export interface Almanac {
  readonly db: Database;
  readonly gateways: Gateways;
  readonly config: Pick<
    Config,
    | 'ALMANAC_URL'
    | 'ALMANAC_SECRET'
    | 'ALMANAC_KEY'
    | 'ALMANAC_DEMO'
    | 'GATEWAY_URL'
    | 'GATEWAY_TIMEOUT_MS'
    | 'SMTP_URL'
  >;
}
