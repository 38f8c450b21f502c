import type { Almanac } from '../almanac.ts';
import type { Database } from '../db/database.ts';
import { chargeInvoices } from '../payments/chargeInvoices.ts';
import { invoiceDue } from '../subscriptions/invoiceDue.ts';

/** At most so many are invoiced and charged in one go. */
const MOST = 50;
/** The gateway is asked for at most so long. */
const LONGEST_MS = 60_000;

interface Waiting {
  readonly id: string;
  readonly on: string;
  readonly done: (left: readonly string[]) => void;
  readonly failed: (error: unknown) => void;
}

/** Who waits in this process, by the database that they are in; while some are being done, others gather. */
const queues = new WeakMap<Database, Waiting[]>();

/**
 * Invoices and charges what is due of a subscription that has just begun, together with whoever joined at the same moment: a
 * fixed number of statements for all of them, the very ones of the run.
 * @returns its invoices that are left to be collected in the careful way
 */
export function collectTogether(almanac: Almanac, id: string, on: string): Promise<readonly string[]> {
  return new Promise((done, failed) => {
    const queue = queues.get(almanac.db);
    if (queue) return void queue.push({ id, on, done, failed });
    const begun: Waiting[] = [{ id, on, done, failed }];
    queues.set(almanac.db, begun);
    void work(almanac, begun);
  });
}

async function work(almanac: Almanac, queue: Waiting[]): Promise<void> {
  while (queue[0]) {
    const { on } = queue[0];
    const some = queue.filter((one) => one.on === on).slice(0, MOST);
    for (const one of some) queue.splice(queue.indexOf(one), 1);
    try {
      await collect(almanac, some, on);
    } catch (error) {
      // What one of them is wrong with is not to be the trouble of all: each is done alone.
      if (some.length === 1) some[0]?.failed(error);
      else for (const one of some) await collect(almanac, [one], on).catch(one.failed);
    }
  }
  queues.delete(almanac.db);
}

async function collect(almanac: Almanac, some: readonly Waiting[], on: string): Promise<void> {
  const ids = some.map(({ id }) => id);
  await invoiceDue(almanac, ids, on);
  const due = await almanac.db.rows<{ id: string; of: string }>(
    `select i.id::text, i.subscription_id::text as of
     from invoices i join subscriptions s on s.id = i.subscription_id join open_dues d on d.invoice_id = i.id
     where s.id = any($ids::bigint[]) and s.collects = 'automatic' and d.due_on <= $on
     group by i.id order by i.id`,
    { ids, on },
  );
  const left = await chargeInvoices(
    almanac,
    due.map(({ id }) => id),
    on,
    AbortSignal.timeout(LONGEST_MS),
  );
  for (const { id, done } of some)
    done(due.filter((one) => one.of === id && left.includes(one.id)).map((one) => one.id));
}
