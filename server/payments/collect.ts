import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf, NO_METHOD } from '../../core/recovery/declineCodes.ts';
import { MOST_ATTEMPTS } from '../../core/recovery/ladder.ts';
import { statementText } from '../../core/words/statementText.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { IN_USE, PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { dueOf } from '../invoices/dues.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { openOrJoinCase } from '../recovery/openCase.ts';
import { lockedSubscription } from '../subscriptions/lock.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { askGateway } from './askGateway.ts';
import { Attempt, type StoredRequest } from './Attempt.ts';
import type { AttemptReason } from './attemptReason.ts';
import type { Channel } from './channel.ts';
import { methodsInTurn, nextMethod } from './methodsInTurn.ts';
import { attemptsOn, declinedIn, occasionKey } from './occasion.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';

export interface CollectRequest {
  readonly invoiceId: string;
  readonly reason: AttemptReason;
  /** By which channel whoever asks for it gave the card; what is charged by itself passes on that of the mandate. */
  readonly channel: Channel | 'by itself';
  readonly businessDate: string;
  /**
   * What this attempt is for, such as "rung 2": asked for again under the same words it is the same attempt,
   * so that a crash between any two steps never makes a second charge.
   */
  readonly occasion: string;
  /** The one method that is charged, and no other after it; without it, the methods of the subscription in their turn. */
  readonly methodId?: string;
  /** The rung of a case that it is made for. */
  readonly rung?: { readonly caseId: string; readonly rung: number; readonly leg: number };
}

/**
 * Collects what an invoice still lacks from its customer's card: the way every automatic or interactive
 * payment takes. The attempt is stored with its key and its request before the gateway is called (transaction 1),
 * the gateway is asked, and the outcome is written with all that follows from it (transaction 2).
 */
export async function collectInvoice(almanac: Almanac, request: CollectRequest): Promise<Collected> {
  for (;;) {
    const prepared = await almanac.db.transaction((within) => prepare(almanac, request, within));
    if (typeof prepared === 'string') return prepared;
    switch (prepared.state) {
      case 'collected':
      case 'declined':
      case 'refused':
        return prepared.state;
      case 'under way': {
        const outcome = await askGateway(almanac, prepared, request.businessDate);
        if (outcome !== 'withdrawn' && outcome !== 'next method') return outcome;
        break; // Another is made in its place, or with the next method.
      }
      case 'withdrawn':
        throw new Error(`Attempt ${prepared.id} was withdrawn: another is to be made in its place.`);
    }
  }
}

async function prepare(
  almanac: Almanac,
  request: CollectRequest,
  within: Transaction,
): Promise<Attempt | Collected> {
  const { subscriptionId } = await Invoice.findByPk(request.invoiceId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const subscription = await lockedSubscription(subscriptionId, within);
  const invoice = await Invoice.findByPk(request.invoiceId, {
    transaction: within,
    lock: within.LOCK.UPDATE,
    rejectOnEmpty: true,
  });
  const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  const base = occasionKey(business.instance, invoice.id, request.occasion);
  const known = await attemptsOn(base, invoice.id, within);
  const latest = known[0];
  if (latest && !latest.goesOn && !(await mayBeMadeAnew(almanac, latest, within))) return latest;

  const balance = await dueOf(almanac, invoice, request.businessDate, within);
  if (balance <= 0n || !['issued', 'part-paid'].includes(invoice.state)) {
    await latest?.update({ goesOn: false }, { transaction: within });
    return 'nothing to collect';
  }
  const methods = await methodsFor(subscription, request, within);
  // A card that this subscription is not charged with says nothing of its debt.
  if (request.methodId !== undefined && methods.length === 0) return 'nothing to collect';
  const method = await nextMethod(methods, declinedIn(known), within);
  const underWay = await Attempt.findOne({
    where: { invoiceId: invoice.id, state: 'under way' },
    transaction: within,
    lock: within.LOCK.UPDATE,
  });
  if (underWay) {
    const isInUse = methods.some(({ id }) => id === underWay.paymentMethodId);
    if (request.reason === 'by staff' && underWay.paymentMethodId !== request.methodId) return 'under way';
    if (underWay.sentAt !== null || isInUse) return underWay;
    // It waits for a card that was replaced, and never left here: it is never made.
    await underWay.update({ state: 'withdrawn', settledAt: new Date() }, { transaction: within });
  }
  const byItself = request.channel === 'by itself';
  if (byItself && subscription.collects === 'by hand') {
    // It was charged by itself when the first of its methods was tried.
    if (latest?.goesOn) await latest.update({ goesOn: false }, { transaction: within });
    await openOrJoinCase(almanac, { subscription, invoice }, null, request.businessDate, within);
    return 'waits for the customer';
  }
  const isTooOften = await triedTooOften(almanac, invoice.id, request.businessDate, within);
  if (latest?.goesOn) {
    await latest.update({ goesOn: false }, { transaction: within });
    if (!method || isTooOften) {
      // What was to be tried next cannot be any more: the answer that there was counts.
      const meaning = meaningOf(latest.responseCode ?? '');
      await openOrJoinCase(almanac, { subscription, invoice }, meaning, request.businessDate, within);
      return latest;
    }
  }
  if (!method) {
    const meaning = methods.length > 0 ? null : NO_METHOD;
    await openOrJoinCase(almanac, { subscription, invoice }, meaning, request.businessDate, within);
    return 'no usable card';
  }
  if (isTooOften) return 'too many attempts';
  const account = await GatewayAccount.findByPk(method.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const channel = byItself ? await channelOf(almanac, method, within) : request.channel;
  const idempotencyKey = known.length === 0 ? base : `${base}#${known.length + 1}`;
  const asked: StoredRequest = {
    token: method.gatewayToken,
    amount: balance.toString(),
    currency: invoice.currency,
    statementText: await statementTextOf(almanac, { subscription, invoice, account }, within),
    reference: `invoice ${invoice.prefix}${invoice.number}`,
    channel,
    businessDate: request.businessDate,
  };
  return Attempt.create(
    {
      invoiceId: invoice.id,
      customerId: invoice.customerId,
      paymentMethodId: method.id,
      gatewayAccountId: account.id,
      idempotencyKey,
      amount: balance,
      reason: request.reason,
      channel,
      request: asked,
      state: 'under way',
      attemptedOn: request.businessDate,
      caseId: request.rung?.caseId ?? null,
      rung: request.rung?.rung ?? null,
      leg: request.rung?.leg ?? 0,
    },
    { transaction: within },
  );
}

/** The methods that may be charged: in their turn, or the one that is asked for; staff may charge any that the customer has. */
async function methodsFor(
  subscription: Subscription,
  { methodId, reason }: CollectRequest,
  within: Transaction,
): Promise<PaymentMethod[]> {
  if (reason === 'by staff' && methodId !== undefined)
    return PaymentMethod.findAll({
      where: { id: methodId, customerId: subscription.customerId, state: IN_USE },
      transaction: within,
    });
  return (await methodsInTurn(subscription, within)).filter(
    ({ id }) => methodId === undefined || id === methodId,
  );
}

/** Whether an attempt came to nothing at all, so that another may be made in its place: nothing was asked of the card. */
async function mayBeMadeAnew(
  almanac: Almanac,
  { id, state }: Attempt,
  within: Transaction,
): Promise<boolean> {
  if (state === 'withdrawn') return true;
  if (state !== 'refused') return false;
  const open = await almanac.db.row(
    'select 1 from needs where once_key = $onceKey and settled_on is null',
    { onceKey: `refused:${id}` },
    within,
  );
  return open === null;
}

/** The channel by which a card was given, from its latest mandate. */
async function channelOf(almanac: Almanac, method: PaymentMethod, within: Transaction): Promise<Channel> {
  const mandate = await almanac.db.row<{ channel: Channel }>(
    'select channel from mandates where payment_method_id = $id order by id desc limit 1',
    { id: method.id },
    within,
  );
  return mandate?.channel ?? 'import';
}

/** The plan's own text on bank statements, or the business's; marked on the first real charge after a trial. */
async function statementTextOf(
  almanac: Almanac,
  of: { subscription: Subscription; invoice: Invoice; account: GatewayAccount },
  within: Transaction,
): Promise<string> {
  const { subscription, invoice, account } = of;
  const row = await almanac.db.row<{ text: string; charged_before: boolean }>(
    `select coalesce(p.statement_text, b.statement_text) as text,
       exists (select 1 from invoices i where i.subscription_id = s.id and i.id < $invoiceId
               and i.kind <> 'trial' and i.state <> 'withdrawn' and greatest(i.total, 0) > i.credit_used) as charged_before
     from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id cross join business b
     where s.id = $subscriptionId`,
    { subscriptionId: subscription.id, invoiceId: invoice.id },
    within,
  );
  if (!row) throw new Error(`Subscription ${subscription.id} has no plan.`);
  const hadTrial = subscription.trialEndsOn !== null && subscription.trialEndsOn !== subscription.startsOn;
  const isFirst = hadTrial && invoice.kind !== 'trial' && !row.charged_before;
  return statementText(row.text, isFirst, account.facts.abilities?.statementText.most ?? row.text.length);
}

async function triedTooOften(
  almanac: Almanac,
  invoiceId: string,
  businessDate: string,
  within: Transaction,
): Promise<boolean> {
  const since = formatDay(toDay(businessDate) - MOST_ATTEMPTS.days);
  const row = await almanac.db.row<{ tried: number }>(
    `select count(*)::int as tried from attempts
     where invoice_id = $invoiceId and attempted_on > $since and state <> 'withdrawn'`,
    { invoiceId, since },
    within,
  );
  return (row?.tried ?? 0) >= MOST_ATTEMPTS.attempts;
}
