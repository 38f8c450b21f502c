import type { Transaction } from 'sequelize';
import { statementText } from '../../core/words/statementText.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { Customer } from '../customers/Customer.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { AccountTrouble } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { lockedSubscription } from '../subscriptions/lock.ts';
import { askGateway } from './askGateway.ts';
import { Attempt } from './Attempt.ts';
import { collecting } from './charging.sql.ts';
import { occasionKey } from './occasion.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';

/**
 * So long a payer may take at the gateway's page. It is well below the time after which an attempt that the gateway does not
 * know of counts as lost (`askGateway.ts`), so that nothing can be paid that was given up.
 */
const OPEN_MS = 30 * 60_000;

/** What is known of an online transfer before the payer goes: its address comes from the gateway. */
interface Prepared {
  readonly attempt: Attempt;
  readonly account: GatewayAccount;
}

/** Of some invoices, those that can be paid by an online transfer: their rate takes it, and an account that charges their currency. */
export async function payableByTransfer(almanac: Almanac, invoiceIds: readonly string[]): Promise<string[]> {
  if (invoiceIds.length === 0) return [];
  const accounts = await almanac.gateways.takers('online transfer');
  const currencies = accounts.flatMap(({ facts }) => facts.abilities.currencies);
  const rows = await almanac.db.rows<{ id: string }>(
    `select i.id::text from invoices i join subscriptions s on s.id = i.subscription_id join rates r on r.id = s.rate_id
     where i.id = any($invoiceIds::bigint[]) and i.currency = any($currencies)
       and coalesce(r.options -> 'methods', '["card"]') ? 'online transfer'
       and not exists (select from dues d where d.invoice_id = i.id) and not exists (${collecting('i')})`,
    { invoiceIds, currencies },
  );
  return rows.map(({ id }) => id);
}

/**
 * Sends a customer away to pay an invoice at the gateway's page. An attempt is stored first, under whose key the gateway makes
 * the charge: its outcome counts only from a webhook or when it is asked for. While the page is open nothing else charges the
 * invoice, and who asks again gets the same page.
 * @param returnUrl where the payer comes back to, whatever they did
 * @returns the address of the gateway's page
 */
export async function beginTransfer(
  almanac: Almanac,
  of: { readonly customerId: string; readonly invoiceId: string; readonly returnUrl: string },
  on: string,
): Promise<{ url: string }> {
  if ((await payableByTransfer(almanac, [of.invoiceId])).length === 0)
    throw new RefusedCommand(422, 'This invoice is not paid by online transfer.', '/invoiceId');
  const { attempt, account } = await almanac.db.transaction((within) => prepare(almanac, of, on, within));
  const { request, idempotencyKey, sentAt } = attempt;
  if (!request || !sentAt) throw new Error(`Attempt ${attempt.id} has no request to send.`);
  try {
    const { url, open } = await almanac.gateways.of(account).sendAway({
      ...{ idempotencyKey, amount: attempt.amount, currency: request.currency },
      ...{ statementText: request.statementText, reference: request.reference },
      ...{ businessDate: request.businessDate, returnUrl: of.returnUrl },
      expiresAt: new Date(sentAt.getTime() + OPEN_MS).toISOString(),
    });
    if (open) return { url };
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    throw new RefusedCommand(
      503,
      'The bank page does not answer just now. Nothing was paid; try again in a minute.',
    );
  }
  // It was ended there meanwhile: what came of it is asked for, and the next one is another.
  await learn(almanac, attempt, on);
  throw new RefusedCommand(409, 'That payment is over. Look what became of it, or begin again.');
}

/** What became of the online transfers of a customer, asked of the gateway when they come back; a webhook may have been quicker. */
export async function learnTransfers(
  almanac: Almanac,
  customerId: string,
  on: string,
): Promise<{ invoice: string; outcome: Collected | 'left' }[]> {
  const rows = await almanac.db.rows<{ id: string; number: string; state: Attempt['state'] }>(
    `select a.id::text, a.state, i.prefix || i.number as number from attempts a join invoices i on i.id = a.invoice_id
       join payment_methods m on m.id = a.payment_method_id
     where i.customer_id = $customerId and m.kind = 'online transfer' 
       and (a.state = 'under way' or a.settled_at > now() - interval '10 minutes') order by a.id`,
    { customerId },
  );
  const learned: { invoice: string; outcome: Collected | 'left' }[] = [];
  for (const { id, number, state } of rows) {
    if (state === 'collected' || state === 'declined') learned.push({ invoice: number, outcome: state });
    if (state !== 'under way') continue;
    const attempt = await Attempt.findByPk(id, { rejectOnEmpty: true });
    learned.push({ invoice: number, outcome: await learn(almanac, attempt, on) });
  }
  return learned;
}

/** Asks the gateway what became of a transfer; one that was left without a charge is over at once. */
async function learn(almanac: Almanac, attempt: Attempt, on: string): Promise<Collected | 'left'> {
  const account = await GatewayAccount.findByPk(attempt.gatewayAccountId, { rejectOnEmpty: true });
  try {
    // Before it is asked for its charge: what ends in between is found as a charge.
    const isOpen = await almanac.gateways.of(account).sentAwayIsOpen(attempt.idempotencyKey);
    const outcome = await askGateway(almanac, attempt, on);
    if (outcome === 'withdrawn') return 'left';
    if (outcome !== 'under way' || isOpen) return outcome;
  } catch (error) {
    if (error instanceof AccountTrouble) return 'waits for its gateway';
    throw error;
  }
  const where = { id: attempt.id, state: 'under way' } as const;
  const [ended] = await Attempt.update({ state: 'withdrawn', settledAt: new Date() }, { where });
  if (ended > 0) return 'left';
  // A webhook was quicker.
  const { state } = await attempt.reload();
  return state === 'collected' || state === 'declined' ? state : 'under way';
}

/** Stores the attempt under whose key the payer pays, or finds the one that they began and have not ended. */
async function prepare(
  almanac: Almanac,
  { customerId, invoiceId }: { readonly customerId: string; readonly invoiceId: string },
  on: string,
  within: Transaction,
): Promise<Prepared> {
  const found = await Invoice.findOne({ where: { id: invoiceId, customerId }, transaction: within });
  if (!found) throw new RefusedCommand(404, 'There is no such invoice.');
  const subscription = await lockedSubscription(found.subscriptionId, within);
  const lock = within.LOCK.UPDATE;
  const invoice = await Invoice.findByPk(invoiceId, { transaction: within, lock, rejectOnEmpty: true });
  const { owed } = invoice;
  if ((invoice.state !== 'issued' && invoice.state !== 'part-paid') || owed <= 0n)
    throw new RefusedCommand(409, 'There is nothing to pay of this invoice.');
  const attempts = await Attempt.findAll({ where: { invoiceId }, order: ['id'], transaction: within });
  const uses = [{ currency: invoice.currency, gateways: [], methods: [] }];
  const [account] = await almanac.gateways.takers('online transfer', uses, within);
  if (!account?.facts.abilities.currencies.includes(invoice.currency))
    throw new RefusedCommand(409, 'No gateway that takes online transfers is connected.');
  const method = await methodOf({ customerId, account, on }, within);
  const open = attempts.find(({ state }) => state === 'under way');
  if (open) {
    const isTransfer = open.paymentMethodId === method.id && open.amount === owed;
    if (!isTransfer)
      throw new RefusedCommand(409, 'A payment of this invoice is under way already: wait for its outcome.');
    return {
      attempt: open,
      account: await GatewayAccount.findByPk(open.gatewayAccountId, {
        transaction: within,
        rejectOnEmpty: true,
      }),
    };
  }
  const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  const rate = await Rate.findByPk(subscription.rateId, { transaction: within, rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  const text = plan.statementText ?? business.statementText;
  const nth = attempts.filter(({ paymentMethodId }) => paymentMethodId === method.id).length + 1;
  const { currency } = invoice;
  const attempt = await Attempt.create(
    {
      ...{ invoiceId, customerId, paymentMethodId: method.id, gatewayAccountId: account.id, amount: owed },
      idempotencyKey: occasionKey(business.instance, invoiceId, `transfer ${nth}`),
      ...{ reason: 'by the customer' as const, channel: 'customer' as const, state: 'under way' as const },
      request: {
        ...{
          token: method.gatewayToken,
          amount: owed.toString(),
          currency,
          channel: 'customer',
          businessDate: on,
        },
        statementText: statementText(text, false, account.facts.abilities.statementText.most),
        reference: `invoice ${invoice.prefix}${invoice.number}`,
      },
      ...{ attemptedOn: on, sentAt: new Date() },
    },
    { transaction: within },
  );
  const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
  const after = { invoice: `${invoice.prefix}${invoice.number}` };
  await recordDone(almanac, { did: 'went to pay by online transfer', subject: name, after }, within);
  return { attempt, account };
}

/** What transfers of a customer stand under, for attempts and receipts: it is never charged. */
async function methodOf(
  of: { readonly customerId: string; readonly account: GatewayAccount; readonly on: string },
  within: Transaction,
): Promise<PaymentMethod> {
  const { customerId, account, on } = of;
  const is = { customerId, gatewayToken: `transfers-at-${account.id}` };
  const [method] = await PaymentMethod.findOrCreate({
    where: is,
    defaults: {
      ...{
        ...is,
        gatewayAccountId: account.id,
        kind: 'online transfer' as const,
        state: 'replaced' as const,
      },
      ...{ network: 'Online transfer', lastFour: '', expiresYear: null, expiresMonth: null, addedOn: on },
    },
    transaction: within,
  });
  return method;
}
