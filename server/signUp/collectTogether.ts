import type { Almanac } from '../almanac.ts';
import { doneTogether } from '../db/together.ts';
import { chargeInvoices } from '../payments/chargeInvoices.ts';
import { invoiceDue } from '../subscriptions/invoiceDue.ts';

/** The gateway is asked for at most so long. */
const LONGEST_MS = 60_000;
/** Whoever joins next does not wait longer than so for the banks of those before them. */
const PATIENCE_MS = 1000;

/**
 * Invoices and charges what is due of a subscription that has just begun, together with whoever joined at the same moment: a
 * fixed number of statements for all of them, the very ones of the run.
 * @returns its invoices that are left to be collected in the careful way
 */
export function collectTogether(almanac: Almanac, id: string, on: string): Promise<readonly string[]> {
  return doneTogether(almanac.db, `what is due on ${on}`, id, {
    work: (ids) => collect(almanac, ids, on),
    most: 50,
    patienceMs: PATIENCE_MS,
  });
}

async function collect(almanac: Almanac, ids: readonly string[], on: string): Promise<string[][]> {
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
  return ids.map((of) => due.filter((one) => one.of === of && left.includes(one.id)).map(({ id }) => id));
}
