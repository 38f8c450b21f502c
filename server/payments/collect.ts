import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { NO_METHOD } from '../../core/recovery/declineCodes.ts';
import { MOST_ATTEMPTS } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { noteHealth } from '../gateways/health.ts';
import { GatewayAway, type ChargeOutcome } from '../gateways/port.ts';
import { dueOf } from '../invoices/dues.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { openOrJoinCase } from '../recovery/openCase.ts';
import { raiseNeed } from '../run/needs.ts';
import { Attempt } from './Attempt.ts';
import type { AttemptReason } from './attemptReason.ts';
import type { Channel } from './channel.ts';
import { currentMethod } from './currentMethod.ts';
import { settleAttempt } from './settleAttempt.ts';

export interface CollectRequest {
  readonly invoiceId: string;
  readonly reason: AttemptReason;
  readonly channel: Channel;
  readonly businessDate: string;
  /**
   * What this attempt is for, such as "rung 2": asked for again under the same words it is the same attempt,
   * so that a crash between any two steps never makes a second charge.
   */
  readonly occasion: string;
}

/** How an invoice stands after it was tried. */
export type Collected =
  | 'collected'
  | 'declined'
  | 'pending'
  | 'nothing to collect'
  | 'no usable card'
  | 'waits for the customer'
  | 'gateway disconnected'
  | 'too many attempts';

/**
 * Collects what an invoice still lacks from its customer's card: the way every automatic or interactive
 * payment takes. The attempt is stored with its key before the gateway is called (transaction 1), the
 * gateway is asked, and the outcome is written with all that follows from it (transaction 2).
 *
 * @throws {@link GatewayAway} where the gateway cannot be reached; the attempt stays pending
 */
export async function collectInvoice(almanac: Almanac, request: CollectRequest): Promise<Collected> {
  const prepared = await almanac.db.transaction((within) => prepare(almanac, request, within));
  if (typeof prepared === 'string') return prepared;
  if (prepared.state !== 'pending') return prepared.state;
  return askGateway(almanac, prepared);
}

/** Asks again about every attempt whose outcome is not known. */
export async function resolvePending(almanac: Almanac): Promise<void> {
  const pending = await Attempt.findAll({ where: { state: 'pending' }, order: ['id'] });
  for (const attempt of pending) await askGateway(almanac, attempt);
}

async function prepare(
  almanac: Almanac,
  request: CollectRequest,
  within: Transaction,
): Promise<Attempt | Collected> {
  const invoice = await Invoice.findByPk(request.invoiceId, {
    transaction: within,
    lock: within.LOCK.UPDATE,
    rejectOnEmpty: true,
  });
  const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  const idempotencyKey = `${business.instance}:${invoice.id}:${request.occasion}`;
  const known = await Attempt.findOne({ where: { idempotencyKey }, transaction: within });
  if (known) return known;

  const balance = await dueOf(almanac, invoice, request.businessDate, within);
  if (balance <= 0n || !['open', 'part-paid'].includes(invoice.state)) return 'nothing to collect';
  const underWay = await Attempt.findOne({
    where: { invoiceId: invoice.id, state: 'pending' },
    transaction: within,
  });
  if (underWay) return underWay;
  if (request.channel === 'import' && (await isPaidByHand(almanac, invoice.subscriptionId, within))) {
    await openOrJoinCase(almanac, invoice, null, request.businessDate, within);
    return 'waits for the customer';
  }
  const method = await currentMethod(invoice.customerId, within);
  if (!method || method.state !== 'usable') {
    await openOrJoinCase(almanac, invoice, method ? null : NO_METHOD, request.businessDate, within);
    return 'no usable card';
  }
  const account = await GatewayAccount.findByPk(method.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  if (account.disconnectedOn !== null) {
    // The business's own doing, not the customer's: the charge waits, and nobody is written to.
    await raiseNeed(almanac, within, {
      onceKey: `disconnected:${account.id}:${account.disconnectedOn}`,
      arose: request.businessDate,
      kind: 'gateway disconnected',
      says: `Charges wait: ${account.name} keeps the cards and is disconnected since ${account.disconnectedOn}. Connect it again in Setup, Gateways.`,
      subscriptionId: null,
      customerId: null,
    });
    return 'gateway disconnected';
  }
  if (await triedTooOften(almanac, invoice.id, request.businessDate, within)) return 'too many attempts';
  return Attempt.create(
    {
      invoiceId: invoice.id,
      paymentMethodId: method.id,
      idempotencyKey,
      amount: balance,
      reason: request.reason,
      channel: request.channel,
      state: 'pending',
      attemptedOn: request.businessDate,
    },
    { transaction: within },
  );
}

async function askGateway(almanac: Almanac, attempt: Attempt): Promise<Collected> {
  const [invoice, method, business] = await Promise.all([
    Invoice.findByPk(attempt.invoiceId, { rejectOnEmpty: true }),
    PaymentMethod.findByPk(attempt.paymentMethodId, { rejectOnEmpty: true }),
    Business.findOne({ rejectOnEmpty: true }),
  ]);
  const account = await GatewayAccount.findByPk(method.gatewayAccountId, { rejectOnEmpty: true });
  if (account.disconnectedOn !== null) return 'pending';
  const gateway = almanac.gateways.of(account);
  const outcome: ChargeOutcome = await gateway.charge({
    idempotencyKey: attempt.idempotencyKey,
    token: method.gatewayToken,
    amount: attempt.amount,
    currency: invoice.currency,
    statementText: (await statementTextOf(almanac, invoice.subscriptionId)) ?? business.statementText,
    reference: `invoice ${invoice.prefix}${invoice.number}`,
    channel: attempt.channel,
    businessDate: attempt.attemptedOn,
  });
  await noteHealth(almanac, account, outcome.kind === 'away' ? new GatewayAway().message : null);
  switch (outcome.kind) {
    case 'settled':
      return settleAttempt(almanac, outcome.charge);
    case 'away':
      throw new GatewayAway();
    case 'unknown': {
      const charge = await gateway.find(attempt.idempotencyKey);
      if (charge) return settleAttempt(almanac, charge);
      return 'pending';
    }
    case 'refused': {
      await almanac.db.transaction((within) =>
        raiseNeed(almanac, within, {
          onceKey: `refused:${attempt.id}`,
          arose: attempt.attemptedOn,
          kind: 'charge refused',
          says: `The gateway would not take the charge for invoice ${invoice.prefix}${invoice.number}: ${outcome.says}`,
          subscriptionId: invoice.subscriptionId,
          customerId: invoice.customerId,
        }),
      );
      // The gateway made no charge and never will under this key: for the customer that is a card that does not work.
      const { idempotencyKey, amount } = attempt;
      return settleAttempt(almanac, {
        id: '',
        idempotencyKey,
        amount,
        currency: invoice.currency,
        state: 'declined',
        code: '14',
      });
    }
  }
}

/** Whether nothing of a subscription is charged by itself. */
async function isPaidByHand(almanac: Almanac, subscriptionId: string, within: Transaction): Promise<boolean> {
  const row = await almanac.db.row(
    `select 1 from subscriptions where id = $subscriptionId and collects = 'by hand'`,
    { subscriptionId },
    within,
  );
  return row !== null;
}

/** The plan's own text on bank statements, or null where it has none. */
async function statementTextOf(almanac: Almanac, subscriptionId: string): Promise<string | null> {
  const plan = await almanac.db.row<{ text: string | null }>(
    `select p.statement_text as text from subscriptions s join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id where s.id = $subscriptionId`,
    { subscriptionId },
  );
  return plan?.text ?? null;
}

async function triedTooOften(
  almanac: Almanac,
  invoiceId: string,
  businessDate: string,
  within: Transaction,
): Promise<boolean> {
  const since = formatDay(toDay(businessDate) - MOST_ATTEMPTS.days);
  const row = await almanac.db.row<{ tried: number }>(
    'select count(*)::int as tried from attempts where invoice_id = $invoiceId and attempted_on > $since',
    { invoiceId, since },
    within,
  );
  return (row?.tried ?? 0) >= MOST_ATTEMPTS.attempts;
}
