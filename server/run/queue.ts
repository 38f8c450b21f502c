import type { Transaction } from 'sequelize';
import type { Database } from '../db/database.ts';

export type JobName = 'send-letter' | 'send-staff-letter' | 'turn-pages';

/** Puts a job into the queue, in the caller's transaction. One under the same key that still waits is replaced. It waits until `at`. */
export async function addJob(
  db: Database,
  name: JobName,
  payload: object,
  key: string,
  within?: Transaction,
  at?: Date,
): Promise<void> {
  await db.rows(
    `select graphile_worker.add_job($name, $payload::json, job_key => $key, run_at => $at::timestamptz) is not null as added`,
    { name, payload: JSON.stringify(payload), key, at: at?.toISOString() ?? null },
    within,
  );
}
