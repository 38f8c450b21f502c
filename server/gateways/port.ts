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

/** A card that the reader is asked to read, and the token for it once it was. */
export interface ReaderRead {
  readonly id: string;
  readonly state: 'waiting' | 'read' | 'cancelled';
  readonly token: string | null;
}

/** A charge as the gateway's own record has it. */
export interface ChargeRecord {
  readonly id: string;
  readonly idempotencyKey: string;
  readonly amount: bigint;
  readonly currency: string;
  /** Submitted: it is the banks' or the cardholder's affair for some days, and collected or declined then. */
  readonly state: 'collected' | 'declined' | 'submitted';
  /** ISO 8583 response code of a card, ISO 20022 reason of a bank debit; empty while it is submitted. */
  readonly code: string;
  /** The day on which what is submitted is answered, whatever has happened until then, `YYYY-MM-DD`. */
  readonly expectedOn?: string | undefined;
  /** The cardholder is to confirm it at the gateway's page, or was. */
  readonly waitsFor?: 'cardholder' | undefined;
}

/** A charge that was answered. */
export type SettledCharge = ChargeRecord & { readonly state: 'collected' | 'declined' };

/**
 * What came of asking: an outcome; that it was `submitted` and is answered on a later day; `unknown` where no answer came, so that the charge may have been made; trouble with
 * the `account` (away, our key refused, asked too fast, not allowed to charge), and whether this request surely did
 * nothing, as where the gateway itself turned it away; or `refused` where the gateway would not take the request as it is.
 */
export type ChargeOutcome =
  | { readonly kind: 'settled'; readonly charge: SettledCharge }
  | { readonly kind: 'submitted'; readonly charge: ChargeRecord }
  | { readonly kind: 'unknown' }
  | { readonly kind: 'account'; readonly trouble: AccountTrouble; readonly didNothing: boolean }
  | { readonly kind: 'refused'; readonly says: string };

/** Whether a charge was answered: it is not the banks' affair any more. */
export const isSettled = (charge: ChargeRecord): charge is SettledCharge => charge.state !== 'submitted';

/** What a charge of the gateway's record means for whoever asked for it. */
export function outcomeOf(charge: ChargeRecord): ChargeOutcome {
  return isSettled(charge) ? { kind: 'settled', charge } : { kind: 'submitted', charge };
}

export interface CardFacts {
  readonly token: string;
  readonly network: string;
  readonly lastFour: string;
  readonly expiresYear: number;
  readonly expiresMonth: number;
  /** The name on the card; empty: it was not asked for. */
  readonly holder: string;
}

/** What a card is asked for before anything is agreed to: minor units, greater than zero. */
export interface AuthorisedAmount {
  readonly amount: bigint;
  readonly currency: string;
}

/** A bank account that a gateway keeps, told by the last four signs of its number. */
export interface BankFacts {
  readonly token: string;
  readonly lastFour: string;
  readonly holder: string;
}

/** A payment that its payer is to make at the gateway's own page. */
export interface SendAway extends Omit<ChargeRequest, 'token' | 'channel' | 'rehearsal'> {
  /** Where the payer comes back to, whatever they did. */
  readonly returnUrl: string;
  /** From then on it cannot be made any more, ISO 8601. */
  readonly expiresAt: string;
}

/** Money of a charge that is to go back. */
export interface RefundRequest {
  /** Stored before the gateway is asked, and sent again unchanged until the outcome is known. */
  readonly idempotencyKey: string;
  /** The charge at the gateway. */
  readonly charge: string;
  /** Minor units, greater than zero. */
  readonly amount: bigint;
  readonly currency: string;
  readonly reference: string;
  readonly businessDate: string;
}

/** A refund as the gateway's own record has it. */
export interface RefundRecord {
  readonly id: string;
  readonly idempotencyKey: string;
  readonly amount: bigint;
  readonly currency: string;
  /** Submitted: it is the banks' affair for some days. Failed: the money came back. */
  readonly state: 'done' | 'failed' | 'submitted';
  /** Why it failed, in the gateway's words. */
  readonly says: string;
  readonly expectedOn?: string | undefined;
}

/** What came of asking for a refund; as for charges. */
export type RefundOutcome =
  | { readonly kind: 'answered'; readonly refund: RefundRecord }
  | { readonly kind: 'unknown' }
  | { readonly kind: 'account'; readonly trouble: AccountTrouble }
  | { readonly kind: 'refused'; readonly says: string };

/** The outside service that moves money, as the product sees it. Adapters stand beside this file. */
export interface GatewayPort {
  charge(request: ChargeRequest): Promise<ChargeOutcome>;
  /**
   * The charge made under a key, as it stands on a day, or null where there is none; throws {@link GatewayAway} where it cannot be
   * asked.
   */
  find(idempotencyKey: string, on: string): Promise<ChargeRecord | null>;
  refund(request: RefundRequest): Promise<RefundOutcome>;
  /** The refund made under a key, as it stands on a day, or null; throws {@link AccountTrouble} where it cannot be asked. */
  findRefund(idempotencyKey: string, on: string): Promise<RefundRecord | null>;
  /** Every refund in the gateway's record. */
  refunds(): AsyncGenerator<RefundRecord, void, void>;
  card(token: string): Promise<CardFacts | null>;
  bankAccount(token: string): Promise<BankFacts | null>;
  /**
   * Asks to authorise an amount, or zero, with a card on a day: nothing is charged, and what was set apart for it is free
   * again with the charge that follows or by itself. The ISO 8583 code of the answer; null where the card is not known. Throws
   * {@link GatewayAway} where it cannot be asked.
   */
  check(token: string, on: string, amount?: AuthorisedAmount): Promise<string | null>;
  /** Gives a card whose number stays another expiry; null where the card is not known. */
  changeExpiry(
    token: string,
    to: { readonly expiresYear: number; readonly expiresMonth: number },
  ): Promise<CardFacts | null>;
  /** Of some tokens, the cards that the gateway knows. */
  cards(tokens: readonly string[]): Promise<CardFacts[]>;
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
  /** Asks the reader to read a card that is to be kept: nothing is charged. */
  readCard(says: string): Promise<ReaderRead>;
  cardRead(id: string): Promise<ReaderRead | null>;
  /**
   * The page at which a payer makes a payment, and whether it still can be made; asked again under the same key it is the same
   * page. What comes of it is a charge under that key. Throws {@link AccountTrouble} where it cannot be asked.
   */
  sendAway(ask: SendAway): Promise<{ readonly url: string; readonly open: boolean }>;
  /**
   * The page at which a cardholder confirms the charge under a key, and whether it still waits for that; null where there is no such
   * charge. What comes of it is the outcome of the charge. Throws {@link AccountTrouble} where it cannot be asked.
   * @param returnUrl where the cardholder comes back to, whatever they did
   */
  confirmation(
    idempotencyKey: string,
    returnUrl: string,
  ): Promise<{ readonly url: string; readonly open: boolean } | null>;
  /** Whether a payment under a key can still be made at the gateway's page: if not, and there is no charge, there never will be. */
  sentAwayIsOpen(idempotencyKey: string): Promise<boolean>;
}

/**
 * An account cannot be asked just now. It is our and the gateway's affair, never a customer's: what was to be asked
 * waits, and nothing has been decided.
 */
export abstract class AccountTrouble extends Error {}

/** The gateway does not take our key: it is wrong, or was revoked there. */
export class KeyRefused extends AccountTrouble {
  constructor() {
    super('The gateway does not take this key: it is wrong, or was revoked there.');
    this.name = 'KeyRefused';
  }
}

/** The gateway cannot be reached, or says that it is away. */
export class GatewayAway extends AccountTrouble {
  constructor() {
    super('The gateway does not answer.');
    this.name = 'GatewayAway';
  }
}

/** The gateway knows the account and does not let it do this: its checks are not done, or it was stopped. */
export class NotAllowed extends AccountTrouble {
  constructor() {
    super('The gateway does not allow this account to charge at present.');
    this.name = 'NotAllowed';
  }
}

/** The business has disconnected the account: its key is forgotten. */
export class Disconnected extends AccountTrouble {
  constructor() {
    super('This gateway account is disconnected.');
    this.name = 'Disconnected';
  }
}

/** The gateway asks for fewer questions in a time. */
export class AskedTooFast extends AccountTrouble {
  /** @param restMs how long the gateway wants to be left alone; null where it does not say */
  constructor(readonly restMs: number | null = null) {
    super('The gateway asks us to slow down.');
    this.name = 'AskedTooFast';
  }
}
