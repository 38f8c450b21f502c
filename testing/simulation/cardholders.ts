import { setTimeout as pause } from 'node:timers/promises';
import type { Almanac } from '../../server/almanac.ts';
import { isOurTrouble } from '../../server/db/trouble.ts';
import { RefusedCommand } from '../../server/http/problem.ts';
import { learnConfirmations, pageToConfirm } from '../../server/payments/confirmation.ts';
import type { SimulatedCustomer } from './scenario.ts';

/** What waits for its cardholder, who was written to of it. */
const WAITING = `
  select a.id::text, a.invoice_id::text as "invoiceId", a.customer_id::text as "customerId", c.reference
  from attempts a join customers c on c.id = a.customer_id
  where a.state = 'under way' and a.waits_for = 'cardholder'
    and exists (select from letters l where l.once_key = 'confirm:' || a.id) order by a.id`;

/**
 * Whoever was asked to confirm a charge goes to the gateway's page by the way of their own page, and does there what they do; some
 * come back, of the others only the gateway tells. Those who leave it do nothing. Where something is away they try again.
 * @returns how many decided
 */
export async function answerBanks(
  almanac: Almanac,
  customers: readonly SimulatedCustomer[],
): Promise<number> {
  let decided = 0;
  for (let left = true; left;) {
    left = false;
    try {
      const today = (await almanac.db.row<{ day: string }>('select business_date as day from business'))?.day;
      const waiting =
        await almanac.db.rows<Record<'id' | 'invoiceId' | 'customerId' | 'reference', string>>(WAITING);
      for (const { invoiceId, customerId, reference } of waiting) {
        const what = customers[Number(reference.slice(2))]?.whenAsked ?? 'leave';
        if (what === 'leave') continue;
        left = true;
        const returnUrl = 'http://127.0.0.1/own/back';
        const { url } = await pageToConfirm(almanac, { customerId, invoiceId, returnUrl }, today ?? '');
        const body = new URLSearchParams({ what });
        const { status } = await fetch(url, { method: 'POST', redirect: 'manual', body });
        if (status !== 303) continue;
        decided += 1;
        await learnConfirmations(almanac, customerId, today ?? '');
      }
    } catch (error) {
      const goesBy = error instanceof RefusedCommand || error instanceof TypeError || isOurTrouble(error);
      if (!goesBy) throw error;
      left = true;
      await pause(20);
    }
  }
  return decided;
}
