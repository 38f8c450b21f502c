import express, { type Express } from 'express';
import { Webhook } from 'standardwebhooks';
import { z } from 'zod';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { sendProblem } from '../http/problem.ts';
import { Attempt } from '../payments/Attempt.ts';
import { settleAttempt } from '../payments/settleAttempt.ts';
import { raiseNeed } from '../run/needs.ts';
import { unseal } from '../secrets/seal.ts';
import { tellStaff } from '../staff/notices.ts';
import { isOf, noteForeignCharge } from '../payments/outcome.ts';
import { accountFacts, type AccountFacts } from './facts.ts';
import { takeRenewedCard } from '../customers/renewedCard.ts';
import { GatewayAccount } from './GatewayAccount.ts';
import { webhookPlace } from './Gateways.ts';
import { settleRefund } from '../refunds/askForRefund.ts';
import type { RefundRecord, SettledCharge } from './port.ts';
import { readCharge, readRefund } from './standInGateway.ts';

const money = { amount: z.string().regex(/^\d{1,18}$/), currency: z.string().length(3) };
/** When what it tells of happened, by the gateway's own clock (Standard Webhooks, the member `timestamp`). */
const happened = z.iso.datetime({ offset: true }).optional();
const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('money.collected'), timestamp: happened, data: z.unknown() }),
  z.object({ type: z.literal('money.declined'), timestamp: happened, data: z.unknown() }),
  z.object({ type: z.literal('refund.done'), timestamp: happened, data: z.unknown() }),
  z.object({ type: z.literal('refund.failed'), timestamp: happened, data: z.unknown() }),
  z.object({ type: z.literal('account.changed'), timestamp: happened, data: accountFacts }),
  z.object({
    type: z.literal('card.renewed'),
    timestamp: happened,
    data: z.object({
      token: z.string().min(1).max(200),
      network: z.string().max(40),
      lastFour: z.string().regex(/^\d{4}$/),
      expiresYear: z.int().min(2000).max(2200),
      expiresMonth: z.int().min(1).max(12),
    }),
  }),
  z.object({
    type: z.literal('money.disputed'),
    data: z.object({ key: z.string(), answerBy: z.iso.date(), says: z.string().max(300), ...money }),
  }),
  z.object({
    type: z.literal('payout.sent'),
    data: z.object({ reference: z.string().max(80), arrivesOn: z.iso.date(), ...money }),
  }),
]);
type GatewayEvent = z.output<typeof eventSchema>;

/**
 * Takes the gateway's webhooks, signed by the Standard Webhooks scheme with the secret of their account: a lost
 * answer is made good here. One that comes twice, late or out of order changes nothing.
 */
export function takeWebhooks(app: Express, almanac: Almanac): void {
  const accounts = new SigningAccounts(almanac);
  app.post(
    '/hooks/gateways/:account',
    express.raw({ type: 'application/json', limit: '100kb' }),
    async (request, response) => {
      const signed = {
        'webhook-id': request.get('webhook-id') ?? '',
        'webhook-timestamp': request.get('webhook-timestamp') ?? '',
        'webhook-signature': request.get('webhook-signature') ?? '',
      };
      const { account, body } = await accounts.verified(request.params.account, String(request.body), signed);
      const event = eventSchema.safeParse(body);
      if (account === null || !event.success) {
        return sendProblem(response, 400, 'The signature of this webhook is wrong, or it is too old.');
      }
      const webhookId = signed['webhook-id'];
      if (event.data.type === 'money.collected' || event.data.type === 'money.declined') {
        // It changes nothing when it comes again: that it came need not be remembered.
        const charge = readCharge(event.data.data);
        // What somebody had to confirm was answered before that to whoever asked for it.
        if (charge.waitsFor || !isFresh(almanac, event.data.timestamp))
          await takeCharge(almanac, account, charge);
      } else if (!(await wasTaken(almanac, account, webhookId))) {
        const at = new Date(Number(signed['webhook-timestamp']) * 1000);
        await act(almanac, account, event.data, { webhookId, at });
        await noteTaken(almanac, account, webhookId);
      }
      response.status(204).end();
    },
  );
}

/** An account is read anew after so long, or when a signature does not fit what is known of it. */
const KNOWN_MS = 5_000;

/** The accounts that webhooks come from, kept ready: a gateway tells of every charge. */
class SigningAccounts {
  private readonly known = new Map<string, { readonly account: GatewayAccount; readonly until: number }>();

  constructor(private readonly almanac: Almanac) {}

  /** The account named in the address, and the body, if it was signed with its secret; null where it was not. */
  async verified(
    id: string,
    text: string,
    signed: Record<string, string>,
  ): Promise<{ account: GatewayAccount | null; body: unknown }> {
    const kept = this.known.get(id);
    if (kept && kept.until > Date.now()) {
      const body = verified(this.almanac, kept.account, text, signed);
      if (body !== null) return { account: kept.account, body };
    }
    const account = /^\d{1,18}$/.test(id) ? await GatewayAccount.findByPk(id) : null;
    if (account === null) return { account, body: null };
    this.known.set(id, { account, until: Date.now() + KNOWN_MS });
    return { account, body: verified(this.almanac, account, text, signed) };
  }
}

/** The body, if it was signed with the account's secret or, for a while after a rotation, the one before; or null. */
function verified(
  almanac: Almanac,
  account: GatewayAccount,
  body: string,
  signed: Record<string, string>,
): unknown {
  const { webhookSecret, earlierWebhookSecret, earlierUntil } = account;
  const earlier = earlierUntil && earlierUntil > new Date() ? earlierWebhookSecret : null;
  for (const secret of [webhookSecret, earlier]) {
    if (!secret) continue;
    try {
      return new Webhook(unseal(almanac, webhookPlace(account), secret)).verify(body, signed);
    } catch {
      // Not with this one.
    }
  }
  return null;
}

/** Webhooks are remembered for so long: a signature is good for minutes, and a gateway repeats itself for days. */
const REMEMBERED = '30 days';

async function wasTaken(almanac: Almanac, { id }: GatewayAccount, webhookId: string): Promise<boolean> {
  const taken = await almanac.db.row(
    'select 1 from webhooks_received where account_id = $id and webhook_id = $webhookId',
    { id, webhookId },
  );
  return taken !== null;
}

/** Noted after it was acted on, each act being one that changes nothing when it is done again. */
async function noteTaken(almanac: Almanac, { id }: GatewayAccount, webhookId: string): Promise<void> {
  await almanac.db.rows(
    'insert into webhooks_received (account_id, webhook_id) values ($id, $webhookId) on conflict do nothing',
    { id, webhookId },
  );
}

/** Forgets webhooks that no gateway repeats any more. */
export async function forgetOldWebhooks({ db }: Almanac): Promise<void> {
  await db.rows(`delete from webhooks_received where received_at < now() - interval '${REMEMBERED}'`);
}

async function act(
  almanac: Almanac,
  account: GatewayAccount,
  event: Exclude<GatewayEvent, { type: 'money.collected' | 'money.declined' }>,
  { webhookId, at }: { readonly webhookId: string; readonly at: Date },
): Promise<void> {
  switch (event.type) {
    case 'account.changed':
      return takeFacts(almanac, account, event.data, event.timestamp ? new Date(event.timestamp) : at);
    case 'refund.done':
    case 'refund.failed':
      return takeRefund(almanac, account, readRefund(event.data));
    case 'money.disputed':
      return takeDispute(almanac, account, event.data, webhookId);
    case 'card.renewed':
      await takeRenewedCard(almanac, account, event.data, await businessDateOf(almanac));
      return;
    case 'payout.sent': {
      const { amount, currency, reference, arrivesOn } = event.data;
      const sum = sayAmount(BigInt(amount), currency);
      const writtenOn = await businessDateOf(almanac);
      await almanac.db.transaction((within) =>
        tellStaff(
          almanac,
          {
            kind: 'payout arrived',
            onceKey: `payout:${account.id}:${webhookId}`,
            subject: `A payout of ${sum} from ${account.name}`,
            says: `${account.name} sent ${sum} to the bank, reference ${reference}; it arrives on ${sayDate(arrivesOn)}.`,
            writtenOn,
          },
          within,
        ),
      );
    }
  }
}

/** For so long an attempt is left to whoever sent it, and gets the gateway's answer to it. */
const FRESH_MS = 60_000;

/** Whether something has only just happened: then whoever asked for it is being told of it in these moments. */
function isFresh(almanac: Almanac, timestamp: string | undefined): boolean {
  if (timestamp === undefined) return false;
  const age = almanac.clock().getTime() - new Date(timestamp).getTime();
  return age >= 0 && age < FRESH_MS;
}

/**
 * What became of a charge counts only from the account that it was sent to, and for what was asked. While whoever sent it
 * waits for the answer, it is theirs: what was lost then is asked for by its key within a minute (see `keepUp`).
 */
async function takeCharge(almanac: Almanac, account: GatewayAccount, charge: SettledCharge): Promise<void> {
  const fresh = new Date(almanac.clock().getTime() - FRESH_MS);
  const left = await almanac.db.row(
    `select 1 from attempts where idempotency_key = $key and gateway_account_id = $account
       and state = 'under way' and (sent_at is null or sent_at <= $fresh or waits_for is not null)`,
    { key: charge.idempotencyKey, account: account.id, fresh },
  );
  if (!left) return;
  const attempt = await attemptOf(account, charge.idempotencyKey);
  if (attempt?.state !== 'under way') return;
  const today = await businessDateOf(almanac);
  if (isOf(attempt, charge)) await settleAttempt(almanac, charge, today);
  else await noteForeignCharge(almanac, attempt, charge, today);
}

/** What became of a refund counts only from the account that it was sent to, and for what was asked. */
async function takeRefund(almanac: Almanac, { id }: GatewayAccount, refund: RefundRecord): Promise<void> {
  const { idempotencyKey: key, amount, currency } = refund;
  const ours = await almanac.db.row(
    `select from refunds f join attempts a on a.id = f.attempt_id
     where f.idempotency_key = $key and a.gateway_account_id = $id and f.amount = $amount and f.currency = $currency`,
    { key, id, amount: amount.toString(), currency },
  );
  if (ours) await settleRefund(almanac, refund, await businessDateOf(almanac));
}

/** The attempt under a key that was sent to an account, or null: of another account's charges nobody else may tell. */
function attemptOf({ id }: GatewayAccount, idempotencyKey: string): Promise<Attempt | null> {
  return Attempt.findOne({ where: { idempotencyKey, gatewayAccountId: id } });
}

/** Facts that are older than those we have are not taken, in whatever order they come. */
async function takeFacts(
  almanac: Almanac,
  { id }: GatewayAccount,
  facts: AccountFacts,
  at: Date,
): Promise<void> {
  await almanac.db.rows(
    `update gateway_accounts set facts = $facts::jsonb, name = $name, asked_at = now(), facts_at = $at
     where id = $id and (facts_at is null or facts_at <= $at)`,
    { id, facts: JSON.stringify(facts), name: facts.name, at },
  );
}

async function takeDispute(
  almanac: Almanac,
  account: GatewayAccount,
  dispute: Extract<GatewayEvent, { type: 'money.disputed' }>['data'],
  webhookId: string,
): Promise<void> {
  const attempt = await attemptOf(account, dispute.key);
  if (!attempt) return;
  const invoice = await almanac.db.row<{
    number: string;
    subscription_id: string;
    customer_id: string;
    name: string;
  }>(
    `select i.prefix || i.number as number, i.subscription_id, i.customer_id, c.name
     from invoices i join customers c on c.id = i.customer_id where i.id = $id`,
    { id: attempt.invoiceId },
  );
  if (!invoice) return;
  const sum = sayAmount(BigInt(dispute.amount), dispute.currency);
  const says = `${invoice.name} disputes the payment of ${sum} for invoice ${invoice.number}: ${dispute.says} Answer at the gateway by ${sayDate(dispute.answerBy)}, or the money goes back.`;
  const today = await businessDateOf(almanac);
  await almanac.db.transaction(async (within) => {
    await raiseNeed(almanac, within, {
      onceKey: `dispute:${webhookId}`,
      arose: today,
      kind: 'payment disputed',
      says,
      subscriptionId: invoice.subscription_id,
      customerId: invoice.customer_id,
    });
    await tellStaff(
      almanac,
      {
        kind: 'dispute',
        onceKey: `dispute:${webhookId}`,
        subject: `${invoice.name} disputes ${sum}: answer by ${sayDate(dispute.answerBy)}`,
        says,
        writtenOn: today,
      },
      within,
    );
  });
}
