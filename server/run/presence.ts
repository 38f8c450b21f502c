import type { Database } from '../db/database.ts';

/** A worker says that it is there so often, and counts as dead when it has not said so for the second time. */
const SAYS_SO_MS = 2_000;
const DEAD_AFTER_MS = 15_000;

/**
 * Keeps the word that the workers of this process are there, and gives free the jobs that a dead one held: otherwise they
 * would stay locked for hours.
 */
export class Presence {
  private readonly workers = new Set<string>();
  private timer: NodeJS.Timeout | null = null;
  private busy = false;

  constructor(private readonly db: Database) {}

  begin(): void {
    this.timer = setInterval(() => void this.sayAndFree(), SAYS_SO_MS);
    this.timer.unref();
  }

  add(workerId: string): void {
    this.workers.add(workerId);
    void this.sayAndFree();
  }

  end(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
  }

  private async sayAndFree(): Promise<void> {
    if (this.busy || this.workers.size === 0) return;
    this.busy = true;
    try {
      await this.say();
      await freeJobsOfTheDead(this.db);
    } catch {
      // The database is away for a moment: the next time says it again.
    } finally {
      this.busy = false;
    }
  }

  private async say(): Promise<void> {
    await this.db.rows(
      `insert into workers (worker_id) select unnest($workers::text[])
       on conflict (worker_id) do update set seen_at = now()`,
      { workers: [...this.workers] },
    );
  }
}

/** Gives free what workers hold that have not been heard of for a while. */
export async function freeJobsOfTheDead(db: Database): Promise<void> {
  await db.rows(
    `with dead as (
       select j.locked_by as id from graphile_worker.jobs j left join workers w on w.worker_id = j.locked_by
       where j.locked_by is not null
         and coalesce(w.seen_at, j.locked_at) < now() - make_interval(secs => $seconds)
       group by 1)
     select graphile_worker.force_unlock_workers(array_agg(id)) is null as freed from dead having count(*) > 0`,
    { seconds: DEAD_AFTER_MS / 1000 },
  );
  await db.rows(`delete from workers where seen_at < now() - interval '1 day'`);
}
