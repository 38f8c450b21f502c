import type { Channel } from '../payments/channel.ts';
import type { AccountFacts } from './facts.ts';

/** One charge asked of a gateway. */
export interface ChargeRequest {
  /** Stored before the gateway is called, and sent again unchanged until the outcome is known. */
  readonly idempotencyKey: string;
  readonly token: string;
  /** Minor units, greater than zero. */
  readonly amount: bigint;
  readonly currency: string;
  readonly statementText: string;
  readonly reference: string;
  readonly channel: Channel;
  readonly businessDate: string;
  /** Answered as it would be, and kept nowhere. */
  readonly rehearsal?: boolean;
}

/** An amount on the display of the card reader, and what came of it. */
export interface ReaderAsk {
  readonly id: string;
  readonly state: 'waiting' | 'collected' | 'declined' | 'cancelled';
  /** ISO 8583 response code once it is settled. */
  readonly code: string;
}

/** A charge as the gateway's own record has it. */
export interface ChargeRecord {
  readonly id: string;
  readonly idempotencyKey: string;
  readonly amount: bigint;
  readonly currency: string;
  readonly state: 'collected' | 'declined';
  /** ISO 8583 response code. */
  readonly code: string;
}

/**
 * What came of asking: an outcome; `unknown` where no answer came, so that the charge may have been made; or
 * `away` where the gateway surely did nothing.
 */
export type ChargeOutcome =
  | { readonly kind: 'settled'; readonly charge: ChargeRecord }
  | { readonly kind: 'unknown' }
  | { readonly kind: 'away' }
  | { readonly kind: 'refused'; readonly says: string };

export interface CardFacts {
  readonly token: string;
  readonly network: string;
  readonly lastFour: string;
  readonly expiresYear: number;
  readonly expiresMonth: number;
}

/** The outside service that moves money, as the product sees it. Adapters stand beside this file. */
export interface GatewayPort {
  charge(request: ChargeRequest): Promise<ChargeOutcome>;
  /** The charge made under a key, or null where there is none; throws {@link GatewayAway} where it cannot be asked. */
  find(idempotencyKey: string): Promise<ChargeRecord | null>;
  card(token: string): Promise<CardFacts | null>;
  /** Every charge in the gateway's record. */
  charges(): AsyncGenerator<ChargeRecord, void, void>;
  /** What the gateway says of the account; throws {@link KeyRefused} where the key is no good. */
  account(): Promise<AccountFacts>;
  /** Names where webhooks go, and gives the secret that they are signed with. */
  nameWebhook(url: string): Promise<string>;
  /** A new secret for webhooks; the one before goes on being used beside it for a while. */
  rotateWebhookSecret(): Promise<string>;
  forgetWebhook(): Promise<void>;
  askReader(ask: { amount: bigint; currency: string; says: string }): Promise<ReaderAsk>;
  readerAsk(id: string): Promise<ReaderAsk | null>;
}

/** The gateway does not take our key: it is wrong, or was revoked there. */
export class KeyRefused extends Error {
  constructor() {
    super('The gateway does not take this key: it is wrong, or was revoked there.');
    this.name = 'KeyRefused';
  }
}

/** The gateway cannot be reached, or says that it is away. Nothing has been decided. */
export class GatewayAway extends Error {
  constructor() {
    super('The gateway does not answer.');
    this.name = 'GatewayAway';
  }
}
