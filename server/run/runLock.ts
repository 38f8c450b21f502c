import { setTimeout as pause } from 'node:timers/promises';
import { Client } from 'pg';
import type { Database } from '../db/database.ts';
import { LockLost } from '../db/trouble.ts';

/** The advisory lock that stands for "a day is being turned". */
const TURNING = 7_240_001;

/**
 * Does the work while holding the right to turn days, or does nothing if another process holds it. The right
 * belongs to a connection, so that PostgreSQL takes it back by itself from a process that dies; a process that loses the
 * connection is told so by the signal, and begins nothing more.
 * @param patienceMs how long to ask for it again: PostgreSQL needs a moment to notice a death
 */
export async function whileHolding(
  db: Database,
  work: (signal: AbortSignal) => Promise<void>,
  patienceMs = 0,
): Promise<boolean> {
  const client = new Client({
    connectionString: db.url,
    keepAlive: true,
    application_name: 'almanac run lock',
  });
  const lost = new AbortController();
  const lose = () => lost.abort(new LockLost());
  client.on('error', lose);
  client.on('end', lose);
  await client.connect();
  try {
    const take = async () => {
      const asked = await client.query<{ taken: boolean }>('select pg_try_advisory_lock($1) as taken', [
        TURNING,
      ]);
      return asked.rows[0]?.taken ?? false;
    };
    const end = Date.now() + patienceMs;
    while (!(await take())) {
      if (Date.now() >= end) return false;
      await pause(100);
    }
    await work(lost.signal);
    return true;
  } finally {
    await client.end().catch(() => undefined);
  }
}
