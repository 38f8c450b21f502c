import { existsSync, mkdirSync, openSync, readFileSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { randomBytes } from 'node:crypto';
import { firstAccounts, type Account } from './accounts.ts';
import type { Behaviour } from './practiceCards.ts';

/** A card, or a bank account, which has no expiry. */
export interface Card {
  readonly token: string;
  readonly account: string;
  readonly network: string;
  readonly lastFour: string;
  readonly expiresYear: number | null;
  readonly expiresMonth: number | null;
  readonly holder?: string;
  readonly behaviour: Behaviour;
}

export interface Charge {
  readonly id: string;
  readonly account: string;
  readonly key: string;
  readonly token: string;
  /** Minor units, digits only. */
  readonly amount: string;
  readonly currency: string;
  readonly statementText: string;
  readonly reference: string;
  readonly channel: string;
  /** The business date it was made on. */
  readonly date: string;
  /** Submitted: the banks have it, or the cardholder is asked. */
  readonly state: 'collected' | 'declined' | 'submitted';
  /** ISO 8583 response code, or ISO 20022 reason; 00 is approved; empty while it is submitted. */
  readonly code: string;
  /** The day on which what is submitted is answered, whatever has happened until then. */
  readonly expectedOn?: string;
  /** The cardholder is to confirm it, or was. */
  readonly waitsFor?: 'cardholder';
}

/** Money of a charge that goes back. */
export interface Refund {
  readonly id: string;
  readonly account: string;
  readonly key: string;
  /** The charge that is paid back. */
  readonly charge: string;
  /** Minor units, digits only. */
  readonly amount: string;
  readonly currency: string;
  readonly reference: string;
  readonly date: string;
  /** Submitted: the banks have it. Failed: the money came back. */
  readonly state: 'done' | 'failed' | 'submitted';
  readonly says: string;
  readonly expectedOn?: string;
}

export interface Webhook {
  readonly id: string;
  readonly account: string;
  readonly type: string;
  /** When it happened: the same however late it is told. */
  readonly timestamp: string;
  readonly data: unknown;
}

type Entry =
  | { readonly account: Account }
  | { readonly card: Card }
  | { readonly charge: Charge }
  | { readonly refund: Refund }
  | { readonly webhook: Webhook }
  | { readonly delivered: string };

/**
 * What the stand-in knows, kept in an append-only file: every account, card, charge and webhook is written down
 * before it is answered, so that a stand-in that is killed remembers what it really charged.
 */
export class Vault {
  readonly accounts = new Map<string, Account>();
  readonly cards = new Map<string, Card>();
  readonly undelivered = new Map<string, Webhook>();
  /** Cards that are issued anew by themselves, by their tokens. */
  readonly renewing = new Set<string>();
  private readonly charges = new Map<string, Charge[]>();
  private readonly byKey = new Map<string, Charge>();

  private readonly submitted = new Map<string, Charge>();
  /** By their ids, in the order in which they were asked for. */
  private readonly refunds = new Map<string, Refund>();

  /** The file, open for adding to its end. */
  private readonly open: number;

  constructor(file: string, given: Parameters<typeof firstAccounts>[0] = {}) {
    mkdirSync(dirname(file), { recursive: true });
    if (existsSync(file)) {
      for (const line of readFileSync(file, 'utf8').split('\n')) {
        if (line === '') continue;
        try {
          this.remember(JSON.parse(line) as Entry);
        } catch {
          // A line cut short by a kill was never answered to anyone.
        }
      }
    }
    this.open = openSync(file, 'a', 0o600);
    for (const account of firstAccounts(given)) {
      if (!this.accounts.has(account.account)) this.keepAccount(account);
    }
  }

  chargesOf(account: string): readonly Charge[] {
    return this.charges.get(account) ?? [];
  }

  /** What the banks have of an account. */
  submittedOf(account: string): readonly Charge[] {
    return [...this.submitted.values()].filter((charge) => charge.account === account);
  }

  chargeUnder(account: string, key: string): Charge | undefined {
    return this.byKey.get(`${account} ${key}`);
  }

  refundsOf(account: string): readonly Refund[] {
    return [...this.refunds.values()].filter((refund) => refund.account === account);
  }

  refundUnder(account: string, key: string): Refund | undefined {
    return this.refundsOf(account).find((refund) => refund.key === key);
  }

  keepRefund(refund: Refund): void {
    this.write({ refund });
  }

  keepAccount(account: Account): Account {
    this.write({ account });
    return account;
  }

  keepCard(card: Omit<Card, 'token'>, given?: string, kind = 'card'): Card {
    const token = given ?? `${kind}-${randomBytes(15).toString('base64url')}`;
    const kept = { token, ...card };
    this.write({ card: kept });
    return kept;
  }

  keepCharge(charge: Charge): void {
    this.write({ charge });
  }

  keepWebhook(webhook: Webhook): void {
    this.write({ webhook });
  }

  keepDelivered(id: string): void {
    this.write({ delivered: id });
  }

  private write(entry: Entry): void {
    writeSync(this.open, `${JSON.stringify(entry)}\n`);
    this.remember(entry);
  }

  private remember(entry: Entry): void {
    if ('account' in entry) this.accounts.set(entry.account.account, entry.account);
    else if ('card' in entry) {
      this.cards.set(entry.card.token, entry.card);
      if (entry.card.behaviour.renews) this.renewing.add(entry.card.token);
    } else if ('charge' in entry) {
      const { charge } = entry;
      const list = this.charges.get(charge.account) ?? [];
      this.charges.set(charge.account, list);
      // What was submitted is answered in its place.
      const at = this.submitted.has(charge.id) ? list.findIndex(({ id }) => id === charge.id) : -1;
      if (at === -1) list.push(charge);
      else list[at] = charge;
      if (charge.state === 'submitted') this.submitted.set(charge.id, charge);
      else this.submitted.delete(charge.id);
      this.byKey.set(`${charge.account} ${charge.key}`, charge);
    } else if ('refund' in entry) this.refunds.set(entry.refund.id, entry.refund);
    else if ('webhook' in entry) this.undelivered.set(entry.webhook.id, entry.webhook);
    else this.undelivered.delete(entry.delivered);
  }
}
