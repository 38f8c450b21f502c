import { setTimeout as pause } from 'node:timers/promises';
import type { Database } from './database.ts';

/** Something that is asked for, and whoever waits for it. */
interface Waiting {
  readonly item: unknown;
  readonly done: (result: never) => void;
  readonly failed: (error: unknown) => void;
}

/** What waits in this process, by the database that it is for and by what is done. */
const queues = new WeakMap<Database, Map<string, Waiting[]>>();

/**
 * Does what several ask for at the same moment in one go: while some are being done, others gather. Where something is wrong
 * with one of them, each is done alone, so that it is nobody's trouble but theirs.
 * @param what names it: only the same is done together
 * @param work does all of them, or none, or what may be done again; gives the results in their order
 * @param most so many are done in one go
 * @param patienceMs after so long those that gathered are begun beside the ones that are being done; absent: they wait
 */
export function doneTogether<Item, Result>(
  db: Database,
  what: string,
  item: Item,
  {
    work,
    most,
    patienceMs,
  }: {
    readonly work: (items: readonly Item[]) => Promise<readonly Result[]>;
    readonly most: number;
    readonly patienceMs?: number;
  },
): Promise<Result> {
  const named = queues.get(db) ?? new Map<string, Waiting[]>();
  queues.set(db, named);
  return new Promise<Result>((done, failed) => {
    const waiting = { item, done, failed } as Waiting;
    const queue = named.get(what);
    if (queue) return void queue.push(waiting);
    const begun = [waiting];
    named.set(what, begun);
    void workOff(begun, { work: work as never, most, patienceMs }, () => named.delete(what));
  });
}

async function workOff(
  queue: Waiting[],
  {
    work,
    most,
    patienceMs,
  }: {
    readonly work: (items: readonly unknown[]) => Promise<readonly never[]>;
    readonly most: number;
    readonly patienceMs: number | undefined;
  },
  end: () => void,
): Promise<void> {
  const tell = async (all: readonly Waiting[]) => {
    const results = await work(all.map(({ item }) => item));
    for (const [i, { done }] of all.entries()) done(results[i] as never);
  };
  const doAll = async (some: readonly Waiting[]) => {
    try {
      await tell(some);
    } catch (error) {
      if (some.length === 1) some[0]?.failed(error);
      else for (const one of some) await tell([one]).catch(one.failed);
    }
  };
  while (queue.length > 0) {
    const doing = doAll(queue.splice(0, most));
    await (patienceMs === undefined ? doing : patiently(patienceMs, doing));
  }
  // At once: whoever comes after this begins anew, and nobody is left waiting in a queue that nobody works off.
  end();
}

/** What is being read for several who ask the very same at the same moment. */
const reading = new WeakMap<Database, Map<string, Promise<unknown>>>();

/**
 * Reads something once for all who ask the very same while it is being read.
 * @param what says all that it depends on
 */
export function readTogether<Result>(
  db: Database,
  what: string,
  read: () => Promise<Result>,
): Promise<Result> {
  const known = reading.get(db) ?? new Map<string, Promise<unknown>>();
  reading.set(db, known);
  const begun = known.get(what) as Promise<Result> | undefined;
  if (begun) return begun;
  const answer = read().finally(() => known.delete(what));
  known.set(what, answer);
  return answer;
}

/** Waits for something, but not longer than so many milliseconds: it goes on then, unwatched; gives whether it was done. */
export async function patiently(ms: number, doing: Promise<unknown>): Promise<boolean> {
  const over = new AbortController();
  const late = pause(ms, false, { signal: over.signal, ref: false }).catch(() => false);
  return Promise.race([doing.then(() => true), late]).finally(() => over.abort());
}
