import { z } from 'zod';
import { accountFacts, type AccountFacts } from './facts.ts';
import {
  AskedTooFast,
  GatewayAway,
  KeyRefused,
  NotAllowed,
  type AccountTrouble,
  type CardFacts,
  type ChargeOutcome,
  type ChargeRecord,
  type ChargeRequest,
  type GatewayPort,
  type ReaderAsk,
} from './port.ts';

const chargeRecord = z
  .object({
    id: z.string(),
    key: z.string(),
    amount: z.string().regex(/^\d+$/),
    currency: z.string(),
    state: z.enum(['collected', 'declined']),
    code: z.string(),
  })
  .transform(({ key, amount, ...rest }): ChargeRecord => ({
    ...rest,
    idempotencyKey: key,
    amount: BigInt(amount),
  }));

const cardFacts = z.object({
  token: z.string(),
  network: z.string(),
  lastFour: z.string(),
  expiresYear: z.number(),
  expiresMonth: z.number(),
});
const chargePage = z.object({ charges: z.array(chargeRecord), next: z.number().nullish() });

/** Reads a charge as the stand-in writes it: in its answers and its webhooks. */
export function readCharge(body: unknown): ChargeRecord {
  return chargeRecord.parse(body);
}

const secretAnswer = z.object({ secret: z.string().min(16).max(200) });
const readerAnswer = z.object({
  id: z.string(),
  state: z.enum(['waiting', 'collected', 'declined', 'cancelled']),
  code: z.string(),
});

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
    let response: Response;
    try {
      response = await this.call('POST', '/v1/charges', {
        headers: { 'Idempotency-Key': idempotencyKey },
        body: { ...rest, amount: amount.toString(), date: businessDate },
      });
    } catch (error) {
      return neverArrived(error)
        ? { kind: 'account', trouble: new GatewayAway(), didNothing: true }
        : { kind: 'unknown' };
    }
    return readOutcome(response);
  }

  async find(idempotencyKey: string): Promise<ChargeRecord | null> {
    const page = await this.read(`/v1/charges?key=${encodeURIComponent(idempotencyKey)}`);
    return chargePage.parse(page).charges[0] ?? null;
  }

  async card(token: string): Promise<CardFacts | null> {
    const card = await this.read(`/v1/cards/${encodeURIComponent(token)}`);
    return card === null ? null : cardFacts.parse(card);
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

  private read(path: string): Promise<unknown> {
    return this.send('GET', path);
  }

  /** Asks, and gives the answer, or null where there is no such thing. */
  private async send(method: string, path: string, body?: object): Promise<unknown> {
    let response: Response;
    try {
      response = await this.call(method, path, body ? { body } : {});
    } catch {
      throw new GatewayAway();
    }
    if (response.status === 404) return null;
    if (!response.ok) throw troubleOf(response.status) ?? new GatewayAway();
    return response.json();
  }

  private call(
    method: string,
    path: string,
    options: { headers?: Record<string, string>; body?: object },
  ): Promise<Response> {
    return fetch(new URL(path, this.way.address), {
      method,
      headers: {
        Authorization: `Bearer ${this.way.secretKey}`,
        'Content-Type': 'application/json',
        ...options.headers,
      },
      ...(options.body ? { body: JSON.stringify(options.body) } : {}),
      redirect: 'manual',
      signal: AbortSignal.timeout(this.way.timeoutMs),
    });
  }
}

/** Whether a call failed before it can have reached the gateway. */
function neverArrived(error: unknown): boolean {
  const cause = error instanceof Error ? (error.cause as { code?: string } | undefined) : undefined;
  return cause?.code === 'ECONNREFUSED' || cause?.code === 'ENOTFOUND';
}

/** The trouble with an account that a status of the gateway tells of, or null where it tells of none. */
function troubleOf(status: number): AccountTrouble | null {
  switch (status) {
    case 401:
      return new KeyRefused();
    case 403:
      return new NotAllowed();
    case 429:
      return new AskedTooFast();
    case 503:
      return new GatewayAway();
    default:
      return null;
  }
}

/**
 * What an answer to a charge means. Only the gateway's own problem documents (RFC 9457) refuse a request: anything else
 * in their place, such as the page of a proxy between, says nothing of what was done.
 */
async function readOutcome(response: Response): Promise<ChargeOutcome> {
  const isProblem = response.headers.get('Content-Type')?.startsWith('application/problem+json') ?? false;
  const trouble = troubleOf(response.status);
  // A proxy between may answer so after it has passed the request on.
  if (trouble) return { kind: 'account', trouble, didNothing: isProblem };
  const body: unknown = await response.json().catch(() => null);
  if (response.status === 201 || response.status === 402) {
    const charge = chargeRecord.safeParse(body);
    return charge.success ? { kind: 'settled', charge: charge.data } : { kind: 'unknown' };
  }
  const problem = z.object({ detail: z.string() }).safeParse(body);
  const isRefusal = [400, 404, 422].includes(response.status);
  if (isRefusal && isProblem && problem.success) return { kind: 'refused', says: problem.data.detail };
  return { kind: 'unknown' };
}
