import { EventEmitter } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';
import { Logger, run, runMigrations, type TaskList, type WorkerEvents } from 'graphile-worker';
import type { Almanac } from '../almanac.ts';
import { followLaw } from '../forecast/lawChanges.ts';
import { testConnections } from '../gateways/health.ts';
import { forgetOldWebhooks } from '../gateways/webhook.ts';
import { forgetOldLimits } from '../http/limits.ts';
import { forgetOldTries } from '../signUp/cardTries.ts';
import { forgetOldVisits } from '../signUp/visits.ts';
import { MailRoute } from '../notices/mailRoute.ts';
import { Mailing } from '../notices/mailing.ts';
import { checkLinkedPolicies } from '../policies/policies.ts';
import { Presence } from './presence.ts';
import { keepUp, turnPages } from './turnPages.ts';
import { unheard } from './unheard.ts';

/** Brings the queue's own tables up to date. */
export async function migrateQueue(connectionString: string): Promise<void> {
  await runMigrations({ connectionString });
}

/** A worker at work. */
export interface Runner {
  /** Ends when the worker has stopped. */
  readonly promise: Promise<void>;
  /** Finishes what is in hand and stops. */
  stop(): Promise<void>;
}

/** So often a worker keeps up with the clock. */
const MINUTE_MS = 60_000;
/** Whoever has changed a tax or a holiday looks at what comes of it right after. */
const LAW_LOOK_MS = 2_000;
/** After something went wrong it is looked at again after so many times the usual wait. */
const AFTER_TROUBLE = 8;

/**
 * Starts a worker: it turns pages together with all others, sends letters, keeps up with the clock, and takes up what a
 * dead worker left, until it is stopped.
 */
export async function startWorker(almanac: Almanac): Promise<Runner> {
  const stopping = new AbortController();
  const { signal } = stopping;
  const { WORKER_LOOK_MS } = almanac.config;
  const bear = unheard(almanac.log);
  process.on('unhandledRejection', bear);
  const route = new MailRoute(almanac);
  const mailing = new Mailing(almanac, route);
  const tasks: TaskList = {
    sweep: async () => {
      await forgetOldLimits(almanac.db);
      await forgetOldVisits(almanac);
      await forgetOldTries(almanac);
      await forgetOldWebhooks(almanac);
      await testConnections(almanac);
      await checkLinkedPolicies(almanac);
    },
  };
  const presence = new Presence(almanac.db);
  const events = new EventEmitter() as WorkerEvents;
  events.on('worker:create', ({ worker }) => presence.add(worker.workerId));
  events.on('stop', () => presence.end());
  presence.begin();
  const minutes = await run({
    connectionString: almanac.db.url,
    concurrency: 1,
    pollInterval: 5_000,
    noHandleSignals: true,
    logger: inOurLog(almanac),
    taskList: tasks,
    crontab: '* * * * * sweep ?max=1',
    events,
  });
  const loops = [
    looking(almanac, 'turning pages', WORKER_LOOK_MS, () => turnPages(almanac, signal), signal),
    looking(almanac, 'letters', WORKER_LOOK_MS, () => mailing.round(almanac.clock(), signal), signal),
    looking(almanac, 'a changed law', LAW_LOOK_MS, () => followLaw(almanac, signal), signal),
    looking(almanac, 'the clock', MINUTE_MS, () => keepUp(almanac, almanac.clock(), signal), signal),
  ];
  const stop = async () => {
    stopping.abort();
    await minutes.stop().catch(() => undefined);
    await Promise.all(loops);
    route.close();
    process.off('unhandledRejection', bear);
  };
  return { promise: Promise.all([minutes.promise, ...loops]).then(() => undefined), stop };
}

/** What the queue has to say goes where everything else goes. */
function inOurLog({ log }: Almanac): Logger {
  return new Logger(() => (level, says) => {
    if (level === 'error') log.error({ work: 'the minute sweep' }, says);
    else if (level === 'warning') log.warn({ work: 'the minute sweep' }, says);
  });
}

/** Does something again and again until the worker stops; what goes wrong is written down and tried again. */
async function looking(
  { log }: Almanac,
  what: string,
  everyMs: number,
  look: () => Promise<unknown>,
  signal: AbortSignal,
): Promise<void> {
  while (!signal.aborted) {
    let wait: number = everyMs;
    try {
      await look();
    } catch (error) {
      if (signal.aborted) return;
      log.error({ work: what, err: error }, 'work was interrupted and is tried again');
      wait = Math.min(MINUTE_MS, everyMs * AFTER_TROUBLE);
    }
    await pause(wait, undefined, { signal }).catch(() => undefined);
  }
}
