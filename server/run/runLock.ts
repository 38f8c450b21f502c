import { Client } from 'pg';
import type { Database } from '../db/database.ts';

/** The advisory lock that stands for "a day is being turned". */
const TURNING = 7_240_001;

/**
 * Does the work while holding the right to turn days, or does nothing if another process holds it. The right
 * belongs to a connection, so that PostgreSQL takes it back by itself from a process that dies.
 */
export async function whileHolding(db: Database, work: () => Promise<void>): Promise<boolean> {
  const client = new Client({ connectionString: db.url });
  await client.connect();
  client.on('error', () => undefined); // A lost connection shows itself in the work's own.
  try {
    const taken = await client.query<{ taken: boolean }>('select pg_try_advisory_lock($1) as taken', [
      TURNING,
    ]);
    if (!taken.rows[0]?.taken) return false;
    await work();
    return true;
  } finally {
    await client.end();
  }
}
