import type { Logger } from 'pino';
import { isOurTrouble } from '../db/trouble.ts';

/**
 * What becomes of a failure that nobody waited for. The queue finishes its jobs unwatched: where its connection is cut in
 * that moment, the process would end, and with it everything else the worker has in hand. A lost connection is written
 * down and borne, as everywhere; anything else is a fault of the program and ends the process.
 */
export function unheard(log: Pick<Logger, 'error'>): (reason: unknown) => void {
  return (reason) => {
    if (!isOurTrouble(reason)) throw reason;
    log.error({ work: 'the queue', err: reason }, 'a connection was lost while nobody waited for it');
  };
}
