import { z } from 'zod';
import type { Config } from '../config.ts';
import {
  GatewayAway,
  type CardFacts,
  type ChargeOutcome,
  type ChargeRecord,
  type ChargeRequest,
  type GatewayPort,
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

type Settings = Pick<Config, 'GATEWAY_URL' | 'GATEWAY_SECRET_KEY' | 'GATEWAY_TIMEOUT_MS'>;

/** The adapter to the gateway stand-in, over HTTP. */
export class StandInGateway implements GatewayPort {
  constructor(private readonly settings: Settings) {}

  async charge(request: ChargeRequest): Promise<ChargeOutcome> {
    const { idempotencyKey, amount, businessDate, ...rest } = request;
    let response: Response;
    try {
      response = await this.call('POST', '/v1/charges', {
        headers: { 'Idempotency-Key': idempotencyKey },
        body: { ...rest, amount: amount.toString(), date: businessDate },
      });
    } catch (error) {
      return { kind: neverArrived(error) ? 'away' : 'unknown' };
    }
    if (response.status === 201 || response.status === 402) {
      return { kind: 'settled', charge: readCharge(await response.json()) };
    }
    if (response.status === 503) return { kind: 'away' };
    if (response.status >= 500) return { kind: 'unknown' };
    const { detail } = z.object({ detail: z.string() }).parse(await response.json());
    return { kind: 'refused', says: detail };
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

  private async read(path: string): Promise<unknown> {
    let response: Response;
    try {
      response = await this.call('GET', path, {});
    } catch {
      throw new GatewayAway();
    }
    if (response.status === 404) return null;
    if (!response.ok) throw new GatewayAway();
    return response.json();
  }

  private call(
    method: string,
    path: string,
    options: { headers?: Record<string, string>; body?: object },
  ): Promise<Response> {
    return fetch(new URL(path, this.settings.GATEWAY_URL), {
      method,
      headers: {
        Authorization: `Bearer ${this.settings.GATEWAY_SECRET_KEY}`,
        'Content-Type': 'application/json',
        ...options.headers,
      },
      ...(options.body ? { body: JSON.stringify(options.body) } : {}),
      signal: AbortSignal.timeout(this.settings.GATEWAY_TIMEOUT_MS),
    });
  }
}

/** Whether a call failed before it can have reached the gateway. */
function neverArrived(error: unknown): boolean {
  const cause = error instanceof Error ? (error.cause as { code?: string } | undefined) : undefined;
  return cause?.code === 'ECONNREFUSED' || cause?.code === 'ENOTFOUND';
}
