import { randomBytes } from 'node:crypto';
import { Webhook as Signer } from 'standardwebhooks';
import type { Charge, Vault, Webhook } from './vault.ts';

const WAITS_MS = [0, 500, 2_000, 10_000, 60_000];

/** Tells the product about charges by webhooks, signed by the Standard Webhooks scheme, until each is taken. */
export class WebhookSender {
  private readonly signer: Signer;
  private readonly queue: Webhook[] = [];
  private busy = 0;

  constructor(
    private readonly vault: Vault,
    private readonly address: string,
    secret: string,
  ) {
    this.signer = new Signer(secret);
    for (const webhook of vault.undelivered.values()) this.queue.push(webhook);
    this.work();
  }

  send(charge: Charge, twice: boolean): void {
    const webhook: Webhook = {
      id: `hook-${randomBytes(12).toString('hex')}`,
      type: charge.state === 'collected' ? 'money.collected' : 'money.declined',
      charge: charge.key,
    };
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

  private async deliver(webhook: Webhook): Promise<void> {
    const charge = this.vault.chargeByKey.get(webhook.charge);
    const body = JSON.stringify({ type: webhook.type, data: charge });
    for (const wait of WAITS_MS) {
      if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait));
      const at = new Date();
      try {
        const response = await fetch(this.address, {
          method: 'POST',
          headers: {
            'Content-Type': 'application/json',
            'webhook-id': webhook.id,
            'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
            'webhook-signature': this.signer.sign(webhook.id, at, body),
          },
          body,
          signal: AbortSignal.timeout(10_000),
        });
        if (response.ok) {
          this.vault.keepDelivered(webhook.id);
          return;
        }
      } catch {
        // Not reached: the next wait is longer. What is never taken is sent again at the next start.
      }
    }
  }
}
