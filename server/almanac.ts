import type { Logger } from 'pino';
import type { Config } from './config.ts';
import type { Database } from './db/database.ts';
import type { Gateways } from './gateways/Gateways.ts';

/** What every command and query works with. */
export interface Almanac {
  readonly db: Database;
  readonly gateways: Gateways;
  /** The instant now: for what is decided by hours, never by days. Tests move it. */
  readonly clock: () => Date;
  /** Where what goes wrong without anybody asking is written down. */
  readonly log: Logger;
  readonly config: Pick<
    Config,
    | 'ALMANAC_URL'
    | 'ALMANAC_SECRET'
    | 'ALMANAC_KEY'
    | 'ALMANAC_DEMO'
    | 'GATEWAY_URL'
    | 'GATEWAY_TIMEOUT_MS'
    | 'SMTP_URL'
    | 'LEASE_MS'
    | 'GATEWAY_LANES'
    | 'WORKER_LOOK_MS'
    | 'READ_DEADLINE_MS'
  >;
}
