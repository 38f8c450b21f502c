import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { paidOut } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { moveCredit } from '../customers/credit.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { noteHealth } from '../gateways/health.ts';
import {
  AccountTrouble,
  AskedTooFast,
  type GatewayPort,
  type RefundOutcome,
  type RefundRecord,
} from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { raiseNeed } from '../run/needs.ts';
import type { RefundState } from './messages.ts';
import { tellOfRefund } from './tellOfRefund.ts';

/** A refund that is under way, as it is stored. */
interface Stored {
  readonly id: string;
  readonly state: RefundState;
  readonly customer_id: string;
  readonly subscription_id: string;
  readonly currency: string;
  readonly amount: string;
  readonly idempotency_key: string;
  readonly request: {
    charge: string;
    amount: string;
    currency: string;
    reference: string;
    businessDate: string;
  };
  readonly sent_at: Date | null;
  readonly gateway_account_id: string;
  readonly customer: string;
}

const STORED = `
  select f.id::text, f.state, f.customer_id::text, i.subscription_id::text, f.currency, f.amount::text, f.idempotency_key, f.request,
    f.sent_at, a.gateway_account_id::text, c.name as customer
  from refunds f join attempts a on a.id = f.attempt_id join invoices i on i.id = a.invoice_id join customers c on c.id = f.customer_id
  where f.id = $id`;

/**
 * Asks the gateway for a refund that is under way, and writes down what came of it. What was ever sent is asked for by its key
 * first, and is sent again only as the very same request; where the account cannot be asked, it stays under way.
 * @param on the business date on which the outcome is learned
 */
export async function askForRefund(almanac: Almanac, id: string, on: string): Promise<RefundState> {
  const stored = await almanac.db.row<Stored>(STORED, { id });
  if (!stored) throw new RefusedCommand(404, 'There is no such refund.');
  if (stored.state !== 'under way') return stored.state;
  const account = await GatewayAccount.findByPk(stored.gateway_account_id, { rejectOnEmpty: true });
  const trouble = almanac.gateways.troubleNow(account);
  const outcome: RefundOutcome = trouble
    ? { kind: 'account', trouble }
    : await ask(almanac, almanac.gateways.of(account), stored, on);
  switch (outcome.kind) {
    case 'answered':
      await noteHealth(almanac, account, null);
      return settleRefund(almanac, outcome.refund, on);
    case 'unknown':
      return 'under way';
    case 'account':
      almanac.gateways.noteTrouble(account, outcome.trouble);
      if (account.disconnectedOn === null && !(outcome.trouble instanceof AskedTooFast))
        await noteHealth(almanac, account, outcome.trouble.message);
      return 'under way';
    case 'refused':
      await noteHealth(almanac, account, null);
      return conclude(almanac, stored.idempotency_key, { state: 'failed', id: null, says: outcome.says }, on);
  }
}

async function ask(
  almanac: Almanac,
  gateway: GatewayPort,
  { id, idempotency_key: idempotencyKey, request, sent_at }: Stored,
  on: string,
): Promise<RefundOutcome> {
  if (sent_at !== null) {
    const found = await find(gateway, idempotencyKey, on);
    if (found.kind !== 'unknown') return found;
  }
  await almanac.db.rows(`update refunds set sent_at = now() where id = $id and state = 'under way'`, { id });
  const outcome = await gateway.refund({ ...request, idempotencyKey, amount: BigInt(request.amount) });
  return outcome.kind === 'unknown' ? find(gateway, idempotencyKey, on) : outcome;
}

async function find(gateway: GatewayPort, idempotencyKey: string, on: string): Promise<RefundOutcome> {
  try {
    const refund = await gateway.findRefund(idempotencyKey, on);
    return refund ? { kind: 'answered', refund } : { kind: 'unknown' };
  } catch (error) {
    if (error instanceof AccountTrouble) return { kind: 'account', trouble: error };
    throw error;
  }
}

/**
 * Writes down what the gateway's record says of a refund. Told the same again, by an answer and a webhook, it does nothing more;
 * one that was done and comes back after all is failed then.
 */
export async function settleRefund(almanac: Almanac, refund: RefundRecord, on: string): Promise<RefundState> {
  if (refund.state === 'submitted') {
    await almanac.db.rows(
      `update refunds set expected_on = $expectedOn, gateway_refund = $gatewayRefund
       where idempotency_key = $key and state = 'under way'`,
      {
        key: refund.idempotencyKey,
        expectedOn: refund.expectedOn ?? null,
        gatewayRefund: refund.id,
      },
    );
    return 'under way';
  }
  return conclude(almanac, refund.idempotencyKey, { ...refund, state: refund.state }, on);
}

function conclude(
  almanac: Almanac,
  key: string,
  as: { readonly state: 'done' | 'failed'; readonly id: string | null; readonly says: string },
  on: string,
): Promise<RefundState> {
  return almanac.db.transaction(async (within) => {
    const row = await almanac.db.row<{ id: string; state: RefundState }>(
      'select id::text, state from refunds where idempotency_key = $key for update',
      { key },
      within,
    );
    if (!row) throw new Error('The gateway tells of a refund that is none of ours.');
    if (row.state === as.state || (row.state === 'failed' && as.state === 'done')) return row.state;
    const { id } = row;
    await almanac.db.rows(
      `update refunds set state = $state, says = $says, settled_on = $on, expected_on = null,
         gateway_refund = coalesce($gatewayRefund, gateway_refund) where id = $id`,
      { id, state: as.state, says: as.says.slice(0, 300), on, gatewayRefund: as.id },
      within,
    );
    if (as.state === 'done') await tellOfRefund(almanac, id, on, within);
    else await giveBack(almanac, id, as.says, on, within);
    return as.state;
  });
}

/** It came to nothing: it is the customer's credit again, and a person sees to it. */
async function giveBack(
  almanac: Almanac,
  id: string,
  says: string,
  on: string,
  within: Transaction,
): Promise<void> {
  const stored = await almanac.db.row<Stored>(STORED, { id }, within);
  if (!stored) throw new Error(`There is no refund ${id}.`);
  const { customer_id: customerId, subscription_id: subscriptionId, currency, customer } = stored;
  const amount = BigInt(stored.amount);
  await raiseNeed(almanac, within, {
    ...{ onceKey: `refund:${id}`, arose: on, kind: 'refund failed', subscriptionId, customerId },
    says: `${sayAmount(amount, currency)} could not be paid back to ${customer}: ${says} It is their credit again. Pay it out by another way.`,
  });
  await moveCredit(
    almanac,
    [{ customerId, currency, amount, movedOn: on, why: 'pay-out failed', refundId: id }],
    within,
  );
  await post(almanac, [paidOut({ refundId: id, amount, currency, on, at: 'clearing' }, true)], within);
}
