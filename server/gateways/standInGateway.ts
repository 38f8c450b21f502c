import type { IncomingHttpHeaders } from 'node:http';
import { Pool, type Dispatcher } from 'undici';
import { z } from 'zod';
import { accountFacts, type AccountFacts } from './facts.ts';
import {
  AskedTooFast,
  GatewayAway,
  isSettled,
  outcomeOf,
  KeyRefused,
  NotAllowed,
  type AccountTrouble,
  type AuthorisedAmount,
  type CardFacts,
  type ChargeOutcome,
  type ChargeRecord,
  type ChargeRequest,
  type GatewayPort,
  type ReaderAsk,
  type ReaderRead,
  type RefundOutcome,
  type RefundRecord,
  type RefundRequest,
  type SendAway,
  type BankFacts,
  type SettledCharge,
} from './port.ts';

const chargeRecord = z
  .object({
    id: z.string(),
    key: z.string(),
    amount: z.string().regex(/^\d+$/),
    currency: z.string(),
    state: z.enum(['collected', 'declined', 'submitted']),
    code: z.string(),
    expectedOn: z.iso.date().optional(),
    waitsFor: z.literal('cardholder').optional(),
  })
  .transform(({ key, amount, ...rest }): ChargeRecord => ({
    ...rest,
    idempotencyKey: key,
    amount: BigInt(amount),
  }));

const refundRecord = z
  .object({
    id: z.string(),
    key: z.string(),
    amount: z.string().regex(/^\d+$/),
    currency: z.string(),
    state: z.enum(['done', 'failed', 'submitted']),
    says: z.string().max(300),
    expectedOn: z.iso.date().optional(),
  })
  .transform(({ key, amount, ...rest }): RefundRecord => ({
    ...rest,
    idempotencyKey: key,
    amount: BigInt(amount),
  }));
const refundPage = z.object({ refunds: z.array(refundRecord), next: z.number().nullish() });

/** Reads a refund that was answered as the stand-in writes it in its webhooks. */
export function readRefund(body: unknown): RefundRecord {
  return refundRecord.parse(body);
}

const cardFacts = z.object({
  token: z.string(),
  network: z.string(),
  lastFour: z.string(),
  expiresYear: z.number(),
  expiresMonth: z.number(),
  holder: z.string().max(200).default(''),
});
/** Of so many cards the stand-in tells in one answer. */
const MOST_ASKED = 500;
const cardList = z.object({ cards: z.array(cardFacts) });
const bankFacts = z.object({ token: z.string(), lastFour: z.string(), holder: z.string().max(200) });
const chargePage = z.object({ charges: z.array(chargeRecord), next: z.number().nullish() });

/** Reads a charge that was answered as the stand-in writes it: in its answers and its webhooks. */
export function readCharge(body: unknown): SettledCharge {
  const charge = chargeRecord.parse(body);
  if (!isSettled(charge)) throw new Error(`The charge ${charge.id} is not answered yet.`);
  return charge;
}

const secretAnswer = z.object({ secret: z.string().min(16).max(200) });
const readerAnswer = z.object({
  id: z.string(),
  state: z.enum(['waiting', 'collected', 'declined', 'cancelled']),
  code: z.string(),
});

const cardReadAnswer = z.object({
  id: z.string(),
  state: z.enum(['waiting', 'read', 'cancelled']),
  token: z.string().nullable(),
});
const isOpenAnswer = z.object({ open: z.boolean() });
/** The page that somebody is sent to. */
const pageAnswer = isOpenAnswer.extend({ url: z.url({ protocol: /^https?$/ }) });
const checkAnswer = z.object({ code: z.string().regex(/^\d\d$/) });

/** How one account at a gateway is reached. */
export interface GatewayWay {
  readonly address: string;
  readonly secretKey: string;
  readonly timeoutMs: number;
}

/** The adapter to the gateway stand-in, over HTTP. */
export class StandInGateway implements GatewayPort {
  constructor(private readonly way: GatewayWay) {}

  async charge(request: ChargeRequest): Promise<ChargeOutcome> {
    const { idempotencyKey, amount, businessDate, ...rest } = request;
    let answer: Answer;
    try {
      answer = await this.call('POST', '/v1/charges', {
        headers: { 'idempotency-key': idempotencyKey },
        body: { ...rest, amount: amount.toString(), date: businessDate },
      });
    } catch (error) {
      return neverArrived(error)
        ? { kind: 'account', trouble: new GatewayAway(), didNothing: true }
        : { kind: 'unknown' };
    }
    return readOutcome(answer);
  }

  async find(idempotencyKey: string, on: string): Promise<ChargeRecord | null> {
    const page = await this.read(`/v1/charges?key=${encodeURIComponent(idempotencyKey)}&on=${on}`);
    return chargePage.parse(page).charges[0] ?? null;
  }

  async refund({ idempotencyKey, amount, businessDate, ...rest }: RefundRequest): Promise<RefundOutcome> {
    let answer: Answer;
    try {
      answer = await this.call('POST', '/v1/refunds', {
        headers: { 'idempotency-key': idempotencyKey },
        body: { ...rest, amount: amount.toString(), date: businessDate },
      });
    } catch (error) {
      return neverArrived(error) ? { kind: 'account', trouble: new GatewayAway() } : { kind: 'unknown' };
    }
    const read = readAnswer(answer, [201, 202], refundRecord);
    return read.kind === 'read' ? { kind: 'answered', refund: read.value } : read;
  }

  async findRefund(idempotencyKey: string, on: string): Promise<RefundRecord | null> {
    const page = await this.read(`/v1/refunds?key=${encodeURIComponent(idempotencyKey)}&on=${on}`);
    return refundPage.parse(page).refunds[0] ?? null;
  }

  async *refunds(): AsyncGenerator<RefundRecord, void, void> {
    for (let after: number | null = 0; after !== null;) {
      const page = refundPage.parse(await this.read(`/v1/refunds?after=${after}`));
      yield* page.refunds;
      after = page.next ?? null;
    }
  }

  async card(token: string): Promise<CardFacts | null> {
    const card = await this.read(`/v1/cards/${encodeURIComponent(token)}`);
    return card === null ? null : cardFacts.parse(card);
  }

  async bankAccount(token: string): Promise<BankFacts | null> {
    const account = await this.read(`/v1/bank-accounts/${encodeURIComponent(token)}`);
    return account === null ? null : bankFacts.parse(account);
  }

  async check(token: string, on: string, asked?: AuthorisedAmount): Promise<string | null> {
    const amount = asked ? { amount: asked.amount.toString(), currency: asked.currency } : {};
    const path = `/v1/cards/${encodeURIComponent(token)}/checks`;
    const answer = await this.send('POST', path, { date: on, ...amount });
    return answer === null ? null : checkAnswer.parse(answer).code;
  }

  async changeExpiry(
    token: string,
    to: { readonly expiresYear: number; readonly expiresMonth: number },
  ): Promise<CardFacts | null> {
    const { expiresYear, expiresMonth } = to;
    const card = await this.send('PUT', `/v1/cards/${encodeURIComponent(token)}/expiry`, {
      expiresYear,
      expiresMonth,
    });
    return card === null ? null : cardFacts.parse(card);
  }

  async cards(tokens: readonly string[]): Promise<CardFacts[]> {
    const found: CardFacts[] = [];
    for (let at = 0; at < tokens.length; at += MOST_ASKED) {
      const answer = await this.send('POST', '/v1/card-lists', { tokens: tokens.slice(at, at + MOST_ASKED) });
      found.push(...cardList.parse(answer).cards);
    }
    return found;
  }

  async *charges(): AsyncGenerator<ChargeRecord, void, void> {
    for (let after: number | null = 0; after !== null;) {
      const page = chargePage.parse(await this.read(`/v1/charges?after=${after}`));
      yield* page.charges;
      after = page.next ?? null;
    }
  }

  async account(): Promise<AccountFacts> {
    return accountFacts.parse(await this.read('/v1/account'));
  }

  async nameWebhook(url: string): Promise<string> {
    return secretAnswer.parse(await this.send('PUT', '/v1/webhook', { url })).secret;
  }

  async rotateWebhookSecret(): Promise<string> {
    return secretAnswer.parse(await this.send('POST', '/v1/webhook/rotation', {})).secret;
  }

  async forgetWebhook(): Promise<void> {
    await this.send('DELETE', '/v1/webhook');
  }

  async askReader(ask: { amount: bigint; currency: string; says: string }): Promise<ReaderAsk> {
    const body = { ...ask, amount: ask.amount.toString() };
    return readerAnswer.parse(await this.send('POST', '/v1/reader/asks', body));
  }

  async readerAsk(id: string): Promise<ReaderAsk | null> {
    const found = await this.read(`/v1/reader/asks/${encodeURIComponent(id)}`);
    return found === null ? null : readerAnswer.parse(found);
  }

  async readCard(says: string): Promise<ReaderRead> {
    return cardReadAnswer.parse(await this.send('POST', '/v1/reader/reads', { says }));
  }

  async cardRead(id: string): Promise<ReaderRead | null> {
    const found = await this.read(`/v1/reader/reads/${encodeURIComponent(id)}`);
    return found === null ? null : cardReadAnswer.parse(found);
  }

  async sendAway({ idempotencyKey, amount, businessDate, ...rest }: SendAway) {
    const body = { ...rest, amount: amount.toString(), date: businessDate };
    const headers = { 'idempotency-key': idempotencyKey };
    return pageAnswer.parse(await this.send('POST', '/v1/send-aways', body, headers));
  }

  async confirmation(key: string, returnUrl: string) {
    const found = await this.send('POST', '/v1/confirmations', { key, returnUrl });
    return found === null ? null : pageAnswer.parse(found);
  }

  async sentAwayIsOpen(idempotencyKey: string): Promise<boolean> {
    const found = await this.read(`/v1/send-aways/${encodeURIComponent(idempotencyKey)}`);
    return found !== null && isOpenAnswer.parse(found).open;
  }

  private read(path: string): Promise<unknown> {
    return this.send('GET', path);
  }

  /** Asks, and gives the answer, or null where there is no such thing. */
  private async send(
    method: string,
    path: string,
    body?: object,
    headers: Record<string, string> = {},
  ): Promise<unknown> {
    let answer: Answer;
    try {
      answer = await this.call(method, path, body ? { body, headers } : {});
    } catch {
      throw new GatewayAway();
    }
    if (answer.status === 404) return null;
    if (answer.status < 200 || answer.status > 299) throw troubleOf(answer) ?? new GatewayAway();
    return JSON.parse(answer.text);
  }

  private async call(
    method: string,
    path: string,
    options: { headers?: Record<string, string>; body?: object },
  ): Promise<Answer> {
    const { address, secretKey, timeoutMs } = this.way;
    // The whole answer is waited for so long and no longer: timers of the pool itself are right to a second only.
    const late = new AbortController();
    const timer = setTimeout(() => late.abort(), timeoutMs);
    try {
      const { statusCode, headers, body } = await poolTo(address, timeoutMs).request({
        signal: late.signal,
        method: method as Dispatcher.HttpMethod,
        path,
        headers: {
          authorization: `Bearer ${secretKey}`,
          ...(options.body ? { 'content-type': 'application/json' } : {}),
          ...options.headers,
        },
        body: options.body ? JSON.stringify(options.body) : null,
      });
      return { status: statusCode, headers, text: await body.text() };
    } finally {
      clearTimeout(timer);
    }
  }
}

/** An answer, read to its end, so that its connection is free for the next question. */
interface Answer {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly text: string;
}

const pools = new Map<string, Pool>();

/** The connections to a gateway, kept open between questions and shared by all of this process. They follow no redirection. */
function poolTo(address: string, timeoutMs: number): Pool {
  const { origin } = new URL(address);
  const key = `${origin} ${timeoutMs}`;
  const pool =
    pools.get(key) ??
    new Pool(origin, {
      connections: 256,
      connect: { timeout: timeoutMs },
      headersTimeout: 0,
      bodyTimeout: 0,
    });
  pools.set(key, pool);
  return pool;
}

/** Whether a call failed before it can have reached the gateway. */
function neverArrived(error: unknown): boolean {
  const { code } = error as { code?: string };
  return ['ECONNREFUSED', 'ENOTFOUND', 'UND_ERR_CONNECT_TIMEOUT'].includes(code ?? '');
}

/** The trouble with an account that a status of the gateway tells of, or null where it tells of none. */
function troubleOf({ status, headers }: Answer): AccountTrouble | null {
  switch (status) {
    case 401:
      return new KeyRefused();
    case 403:
      return new NotAllowed();
    case 429:
      return new AskedTooFast(restOf(headers['retry-after']));
    case 503:
      return new GatewayAway();
    default:
      return null;
  }
}

/** How long a gateway asks to be left alone, in milliseconds (RFC 9110, Retry-After: seconds or a date); null: it does not say. */
function restOf(header: string | string[] | undefined): number | null {
  if (typeof header !== 'string') return null;
  if (/^\d{1,6}$/.test(header)) return Number(header) * 1000;
  const until = /GMT$/.test(header) ? Date.parse(header) : Number.NaN;
  return Number.isNaN(until) ? null : Math.max(0, until - Date.now());
}

/** What an answer to a charge means. */
function readOutcome(answer: Answer): ChargeOutcome {
  const read = readAnswer(answer, [201, 202, 402], chargeRecord);
  return read.kind === 'read' ? outcomeOf(read.value) : read;
}

/**
 * What an answer to a request with a key means. Only the gateway's own problem documents (RFC 9457) refuse a request: anything
 * else in their place, such as the page of a proxy between, says nothing of what was done.
 * @param good the statuses under which the gateway tells what it did
 */
function readAnswer<Value>(
  answer: Answer,
  good: readonly number[],
  schema: z.ZodType<Value>,
):
  | { readonly kind: 'read'; readonly value: Value }
  | Exclude<ChargeOutcome, { kind: 'settled' | 'submitted' }> {
  const isProblem = String(answer.headers['content-type'] ?? '').startsWith('application/problem+json');
  const trouble = troubleOf(answer);
  // A proxy between may answer so after it has passed the request on.
  if (trouble) return { kind: 'account', trouble, didNothing: isProblem };
  const body = parsedJson(answer.text);
  if (good.includes(answer.status)) {
    const read = schema.safeParse(body);
    return read.success ? { kind: 'read', value: read.data } : { kind: 'unknown' };
  }
  const problem = z.object({ detail: z.string() }).safeParse(body);
  const isRefusal = [400, 404, 422].includes(answer.status);
  if (isRefusal && isProblem && problem.success) return { kind: 'refused', says: problem.data.detail };
  return { kind: 'unknown' };
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
