import { pino, type DestinationStream, type Logger } from 'pino';
import type { Config } from './config.ts';
import { errorForLog } from './http/log.ts';

/**
 * The log of what is done without anybody asking: days, letters, charges. It says which step, day and subscription, and
 * of an error its name and stack; nothing of a person.
 */
export function workLog({ LOG_LEVEL }: Pick<Config, 'LOG_LEVEL'>, to?: DestinationStream): Logger {
  return pino({ level: LOG_LEVEL, serializers: { err: errorForLog } }, to as DestinationStream);
}
