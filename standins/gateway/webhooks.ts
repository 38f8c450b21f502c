import { randomBytes } from 'node:crypto';
import { Webhook as Signer } from 'standardwebhooks';
import { request } from 'undici';
import type { Vault, Webhook } from './vault.ts';

const WAITS_MS = [0, 500, 2_000, 10_000, 60_000];

/** Tells the holders of accounts what happened, by webhooks signed by the Standard Webhooks scheme, until each is taken. */
export class WebhookSender {
  private readonly queue: Webhook[] = [];
  private busy = 0;

  constructor(private readonly vault: Vault) {
    for (const webhook of vault.undelivered.values()) this.queue.push(webhook);
    this.work();
  }

  /** Nothing is sent for an account whose holder has named no address. */
  send(account: string, type: string, data: unknown, twice = false): void {
    if (!this.vault.accounts.get(account)?.webhook) return;
    const id = `hook-${randomBytes(12).toString('hex')}`;
    const webhook: Webhook = { id, account, type, data, timestamp: new Date().toISOString() };
    this.vault.keepWebhook(webhook);
    this.queue.push(webhook, ...(twice ? [webhook] : []));
    this.work();
  }

  private work(): void {
    while (this.busy < 4) {
      const webhook = this.queue.shift();
      if (!webhook) return;
      this.busy += 1;
      void this.deliver(webhook).finally(() => {
        this.busy -= 1;
        this.work();
      });
    }
  }

  private async deliver({ id, account, type, data, timestamp }: Webhook): Promise<void> {
    const body = JSON.stringify({ type, timestamp, data });
    for (const wait of WAITS_MS) {
      if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait));
      const hook = this.vault.accounts.get(account)?.webhook;
      if (!hook) return this.vault.keepDelivered(id);
      const at = new Date();
      const secrets = [hook.secret, ...(hook.earlier ? [hook.earlier] : [])];
      try {
        const { statusCode, body: answer } = await request(hook.url, {
          method: 'POST',
          headers: {
            'Content-Type': 'application/json',
            'webhook-id': id,
            'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
            'webhook-signature': secrets.map((secret) => new Signer(secret).sign(id, at, body)).join(' '),
          },
          body,
          headersTimeout: 10_000,
          bodyTimeout: 10_000,
        });
        await answer.dump();
        if (statusCode >= 200 && statusCode < 300) {
          this.vault.keepDelivered(id);
          return;
        }
      } catch {
        // Not reached: the next wait is longer. What is never taken is sent again at the next start.
      }
    }
  }
}
