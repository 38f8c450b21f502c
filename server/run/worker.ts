import { EventEmitter } from 'node:events';
import { run, runMigrations, type Runner, type TaskList, type WorkerEvents } from 'graphile-worker';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { testConnections } from '../gateways/health.ts';
import { forgetOldLimits } from '../http/limits.ts';
import { MailRoute, minutesOfQuiet } from '../notices/mailRoute.ts';
import { sendLetter, sendStaffLetter } from '../notices/sendLetter.ts';
import { checkLinkedPolicies } from '../policies/policies.ts';
import { Presence } from './presence.ts';
import { addJob } from './queue.ts';
import { keepUp, turnPages } from './turnPages.ts';

/** Brings the queue's own tables up to date. */
export async function migrateQueue(connectionString: string): Promise<void> {
  await runMigrations({ connectionString });
}

/** Starts a worker: it turns pages, sends letters and takes up what a dead worker left, until it is stopped. */
export async function startWorker(almanac: Almanac): Promise<Runner> {
  const route = new MailRoute(almanac);
  const letter = z.object({ letterId: z.string() });
  const tasks: TaskList = {
    'turn-pages': () => turnPages(almanac),
    'send-letter': (payload) => sendLetter(almanac, route, letter.parse(payload).letterId, new Date()),
    'send-staff-letter': (payload) => sendStaffLetter(almanac, route, letter.parse(payload).letterId),
    sweep: async () => {
      await sweep(almanac);
      await forgetOldLimits(almanac.db);
      await keepUp(almanac, new Date());
      await testConnections(almanac);
      await checkLinkedPolicies(almanac);
    },
  };
  const presence = new Presence(almanac.db);
  const events = new EventEmitter() as WorkerEvents;
  events.on('worker:create', ({ worker }) => presence.add(worker.workerId));
  events.on('stop', () => presence.end());
  await sweep(almanac);
  presence.begin();
  return run({
    connectionString: almanac.db.url,
    concurrency: 5,
    pollInterval: 500,
    noHandleSignals: true,
    taskList: tasks,
    crontab: '* * * * * sweep ?max=1',
    events,
  });
}

/**
 * Takes up what was left lying: a turn under way that no worker has in hand, and letters that no job is there for, such
 * as after the queue gave up on a mail server that was away for days. What waits in the queue is left where it is.
 */
export async function sweep(almanac: Almanac): Promise<void> {
  const turning = await almanac.db.row(`select 1 from page_turns where state <> 'done'`);
  if (turning) await addJob(almanac.db, 'turn-pages', {}, 'turn-pages');
  const quiet = (await minutesOfQuiet(almanac, new Date())) > 0;
  for (const [job, table, key] of [
    ['send-letter', 'letters', 'letter-'],
    ['send-staff-letter', 'staff_letters', 'staff-letter-'],
  ] as const) {
    if (quiet && table === 'letters') continue;
    await almanac.db.rows(
      `select graphile_worker.add_job('${job}', json_build_object('letterId', id::text), job_key => '${key}' || id)
       is not null as added from ${table} l
       where state = 'queued' and not exists (
         select 1 from graphile_worker.jobs j
         where j.key in ('${key}' || l.id, '${key}' || l.id || '-after-quiet') and j.attempts < j.max_attempts)`,
    );
  }
}
