import type { Almanac } from '../almanac.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { AccountTrouble } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { askGateway } from './askGateway.ts';
import { Attempt } from './Attempt.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';

/** The attempt at an invoice that waits for its cardholder. */
const waitingFor = (invoiceId: string) =>
  Attempt.findOne({ where: { invoiceId, state: 'under way', waitsFor: 'cardholder' } });

/**
 * The gateway's page at which a cardholder confirms the charge of an invoice. Where it is over there, what came of it is written
 * down before they are told.
 * @param of the customer whose invoice it must be, and where they come back to, whatever they did
 */
export async function pageToConfirm(
  almanac: Almanac,
  of: { readonly customerId: string; readonly invoiceId: string; readonly returnUrl: string },
  on: string,
): Promise<{ url: string }> {
  const attempt = await waitingFor(of.invoiceId);
  if (attempt?.customerId !== of.customerId)
    throw new RefusedCommand(409, 'There is nothing to confirm of this invoice any more.');
  const account = await GatewayAccount.findByPk(attempt.gatewayAccountId, { rejectOnEmpty: true });
  try {
    const page = await almanac.gateways.of(account).confirmation(attempt.idempotencyKey, of.returnUrl);
    if (page?.open) return { url: page.url };
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    throw new RefusedCommand(503, 'The bank page does not answer just now. Try again in a minute.');
  }
  await askGateway(almanac, attempt, on);
  throw new RefusedCommand(409, 'That is over already. Look what became of it.');
}

/** What became of a customer's charges that were to be confirmed, asked of the gateway when they come back from it. */
export async function learnConfirmations(
  almanac: Almanac,
  customerId: string,
  on: string,
): Promise<{ invoice: string; outcome: Collected }[]> {
  const rows = await almanac.db.rows<{ id: string; number: string; state: Attempt['state'] }>(
    `select a.id::text, a.state, i.prefix || i.number as number from attempts a join invoices i on i.id = a.invoice_id
     where i.customer_id = $customerId and a.waits_for = 'cardholder'
       and (a.state = 'under way' or a.settled_at > now() - interval '10 minutes') order by a.id`,
    { customerId },
  );
  const learned: { invoice: string; outcome: Collected }[] = [];
  for (const { id, number, state } of rows) {
    if (state === 'collected' || state === 'declined') learned.push({ invoice: number, outcome: state });
    if (state !== 'under way') continue;
    const outcome = await askGateway(almanac, await Attempt.findByPk(id, { rejectOnEmpty: true }), on);
    if (outcome !== 'withdrawn') learned.push({ invoice: number, outcome });
  }
  return learned;
}
