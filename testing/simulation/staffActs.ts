import { setTimeout as pause } from 'node:timers/promises';
import type { Almanac } from '../../server/almanac.ts';
import { isOurTrouble } from '../../server/db/trouble.ts';
import { RefusedCommand } from '../../server/http/problem.ts';
import { refundPayment } from '../../server/refunds/refundPayment.ts';
import { take } from '../../server/takings/take.ts';
import type { StaffAct } from './scenario.ts';

interface Standing {
  readonly customerId: string;
  readonly openInvoice: string | null;
  readonly owed: string | null;
  readonly attemptId: string | null;
  readonly paid: string | null;
}

/** How a customer stands, by what is the same in peace and under blows: never by the numbers that rows have. */
const STANDING = `
  select c.id::text as "customerId", o.id::text as "openInvoice", o.owed::text as owed, p.id::text as "attemptId", p.amount::text as paid
  from customers c
  left join lateral (select i.id, i.owed from invoices i where i.customer_id = c.id and i.owed > 0 and i.state in ('issued', 'part-paid', 'written off')
    order by i.period_from limit 1) o on true
  left join lateral (select a.id, a.amount from attempts a join invoices i on i.id = a.invoice_id
    where a.customer_id = c.id and a.state = 'collected' and i.owed = 0 order by i.period_from limit 1) p on true
  where c.reference = $reference`;

/**
 * What staff do with a customer's money: whoever owes pays some of it by transfer, and whoever has paid gets some back. Where the
 * database goes away meanwhile, it is looked whether it was done, and done again if it was not, as the interface asks again under
 * the same key.
 */
export async function act(almanac: Almanac, { of, share, to }: StaffAct): Promise<void> {
  const reference = `C-${String(of).padStart(2, '0')}`;
  const reason = `Simulated for ${reference}`;
  for (;;) {
    try {
      const done = await almanac.db.row(
        `select from credit_notes where reason = $reason union all select from takings where reference = $reason`,
        { reason },
      );
      if (done) return;
      const standing = await almanac.db.row<Standing>(STANDING, { reference });
      if (!standing) return;
      const { customerId, openInvoice, owed, attemptId, paid } = standing;
      const part = (of: string) => String((BigInt(of) * BigInt(share) + 99n) / 100n);
      if (openInvoice !== null && owed !== null)
        await take(almanac, customerId, {
          ...{ means: 'transfer', currency: 'GBP', amount: part(owed), reference: reason, note: '' },
          ...{ receivedOn: await today(almanac), invoices: [openInvoice], over: '0', receipt: true },
        });
      else if (attemptId !== null && paid !== null)
        await refundPayment(almanac, attemptId, { amount: part(paid), to, reason, writes: true });
      return;
    } catch (error) {
      if (error instanceof RefusedCommand) return;
      if (!isOurTrouble(error)) throw error;
      await pause(20);
    }
  }
}

async function today({ db }: Almanac): Promise<string> {
  const row = await db.row<{ day: string }>('select business_date as day from business');
  return row?.day ?? '';
}
