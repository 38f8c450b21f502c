import { setTimeout as pause } from 'node:timers/promises';
import type { Bound, Database } from '../db/database.ts';
import { ClaimLost } from '../db/trouble.ts';

/** Some items of a step that are done together, claimed by one worker for as long as it says that it is at them. */
export interface Batch {
  readonly id: string;
  /** Its place among the batches of the step, from 0. */
  readonly place: number;
  readonly items: readonly string[];
}

/** A step of a day, as far as its batches are concerned. */
export interface Claimable {
  readonly businessDate: string;
  /** The step's name, and its place in the day. */
  readonly step: string;
  readonly at: number;
  readonly size: number;
  /** The statement that gives what is due, one `item` a row, in order; `$businessDate` and `$now` are bound. */
  readonly due: string;
  readonly bound: Readonly<Record<string, Bound>>;
}

/** An earlier batch has lost its worker: whoever waits for it gives its own back, and takes that one up. */
export class GiveBack extends Error {}

const POLL_MS = 20;
/** What is due is cut so that several workers get a share of it, in batches that are worth a statement. */
const SHARES = 8;
const SMALLEST = 50;

/**
 * The claims of one worker on the batches of one step: a lease on rows, not a lock of a session, so that any number of
 * workers share a step, over any connections, and what a dead one held is another's after a while.
 */
export class Claims {
  constructor(
    private readonly db: Database,
    private readonly of: Claimable,
    private readonly worker: string,
    private readonly leaseMs: number,
  ) {}

  /**
   * Cuts what is due into batches, unless that was done or the step is over, and claims the first of them. Whatever is due
   * by what this worker sees is open, even where another was quicker to cut it: the batches of that one are not seen yet
   * by the statement that waited for them.
   * @returns the claimed batches, and whether there is anything to do in this step at all, by whomever
   */
  async plan(most: number): Promise<{ readonly mine: Batch[]; readonly isOpen: boolean }> {
    const first = await this.planned(most);
    // Batches are there and all of them are done: a pass was cut short before it could say so, and they are forgotten.
    if (!first.isOpen || first.mine.length > 0 || (await this.isOpen())) return first;
    await this.forget();
    return this.planned(most);
  }

  private async planned(most: number): Promise<{ readonly mine: Batch[]; readonly isOpen: boolean }> {
    const rows = await this.cut(most);
    const mine = rows.filter((row): row is Batch => row.id !== null);
    return { mine, isOpen: rows.length > 0 };
  }

  private cut(most: number): Promise<(Batch | { readonly id: null })[]> {
    const { businessDate, step, at, size, due, bound } = this.of;
    return this.db.rows(
      `with known as (select 1 from run_batches where business_date = $businessDate and step = $step limit 1),
       over as (select 1 from days where business_date = $businessDate and step > $at),
       due as (select item, row_number() over () - 1 as n, count(*) over () as of from (${due}) asked),
       cut as (
         select (n / least($size, greatest(${SMALLEST}, (of + ${SHARES - 1}) / ${SHARES})))::int as place,
           array_agg(item order by n) as items
         from due where not exists (select from known) and not exists (select from over) group by 1),
       planned as (
         insert into run_batches (business_date, step, place, items, claimed_by, claimed_until)
         select $businessDate, $step, place, items,
           case when place < $most then $worker end,
           case when place < $most then now() + $leaseMs * interval '1 millisecond' end
         from cut on conflict do nothing returning id, place, items, claimed_by)
       select id::text, place, items from planned where claimed_by = $worker
       union all select null, -1, null from known where not exists (select from over)
       union all select null, -2, null where exists (select from cut)
       order by place`,
      { ...bound, businessDate, step, at, size, most, worker: this.worker, leaseMs: this.leaseMs },
    );
  }

  /** Takes away batches that are all done. */
  private async forget(): Promise<void> {
    const { businessDate, step } = this.of;
    await this.db.rows(
      `delete from run_batches b where business_date = $businessDate and step = $step and done and not exists (
         select 1 from run_batches o where o.business_date = b.business_date and o.step = b.step and not o.done)`,
      { businessDate, step },
    );
  }

  /** Claims the first batch that nobody is at, or null where there is none. */
  async claim(): Promise<Batch | null> {
    const { businessDate, step } = this.of;
    return this.db.row<Batch>(
      // By itself, so that it is looked for once: joined, it may be looked for again for each row, and claim them all.
      `with free as materialized (
         select id from run_batches
         where business_date = $businessDate and step = $step and not done
           and (claimed_until is null or claimed_until < now())
         order by place limit 1 for update skip locked)
       update run_batches b set claimed_by = $worker, claimed_until = now() + $leaseMs * interval '1 millisecond'
       from free where b.id = free.id returning b.id::text, b.place, b.items`,
      { businessDate, step, worker: this.worker, leaseMs: this.leaseMs },
    );
  }

  /** Whether a batch of the step is not done, by whomever it is claimed. */
  async isOpen(): Promise<boolean> {
    const { businessDate, step } = this.of;
    const open = await this.db.row(
      'select 1 from run_batches where business_date = $businessDate and step = $step and not done limit 1',
      { businessDate, step },
    );
    return open !== null;
  }

  /** Does work on a batch while saying that this worker is at it; the signal tells that the claim was lost. */
  async holding<T>(batch: Batch, work: (signal: AbortSignal) => Promise<T>): Promise<T> {
    const lost = new AbortController();
    let until = Date.now() + this.leaseMs;
    const timer = setInterval(() => {
      const asked = Date.now();
      void this.extend(batch).then(
        (held) => {
          if (held) until = asked + this.leaseMs;
          else lost.abort(new ClaimLost());
        },
        () => {
          // The database is away for a moment; what it does not hear of for too long is not ours any more.
          if (Date.now() > until) lost.abort(new ClaimLost());
        },
      );
    }, this.leaseMs / 3);
    try {
      return await work(lost.signal);
    } finally {
      clearInterval(timer);
    }
  }

  private async extend({ id }: Batch): Promise<boolean> {
    const held = await this.db.row(
      `update run_batches set claimed_until = now() + $leaseMs * interval '1 millisecond'
       where id = $id and claimed_by = $worker and not done returning id`,
      { id, worker: this.worker, leaseMs: this.leaseMs },
    );
    return held !== null;
  }

  /** A batch is done. */
  async finish({ id }: Batch): Promise<void> {
    await this.db.rows('update run_batches set done = true where id = $id', { id });
  }

  /** Gives a batch back undone: anybody may take it at once. */
  async giveBack({ id }: Batch): Promise<void> {
    await this.db.rows(
      'update run_batches set claimed_by = null, claimed_until = null where id = $id and claimed_by = $worker and not done',
      { id, worker: this.worker },
    );
  }

  /**
   * Waits until all batches before one are done.
   * @throws {@link GiveBack} where one of them has lost its worker
   */
  async earlierDone({ place }: Batch, signal: AbortSignal): Promise<void> {
    const { businessDate, step } = this.of;
    // Most often the one before is nearly done: it is asked for at once, and then more and more seldom.
    for (let wait = 1; ; wait = Math.min(POLL_MS, 2 * wait)) {
      signal.throwIfAborted();
      const earlier = await this.db.row<{ free: boolean }>(
        `select coalesce(claimed_until < now(), true) as free from run_batches
         where business_date = $businessDate and step = $step and place < $place and not done order by place limit 1`,
        { businessDate, step, place },
      );
      if (!earlier) return;
      if (earlier.free) throw new GiveBack();
      await pause(wait);
    }
  }

  /** The step is over: its batches are forgotten, and the day stands at the next. */
  async close(): Promise<void> {
    const { businessDate, step, at } = this.of;
    await this.db.rows(
      `with gone as (delete from run_batches where business_date = $businessDate and step = $step and done)
       update days set step = $at + 1 where business_date = $businessDate and step <= $at`,
      { businessDate, step, at },
    );
  }
}
